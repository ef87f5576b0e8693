import { useView } from "../state/store";
import { alter } from "./act";

const FIELD = "rounded-sm border border-rule bg-sheet px-1 py-0.5";
const READ_AFTER: readonly (readonly [value: string, name: string])[] = [
  ["", "never by itself"],
  ["0", "at once"],
  ["2", "after 2 seconds"],
  ["5", "after 5 seconds"],
  ["15", "after 15 seconds"],
];

/** How lists are ordered where nothing else was chosen, and when a message counts as read. */
export function Habits() {
  const settings = useView((v) => v.home?.settings);
  if (!settings) return null;
  const { order, pinnedFirst, readAfter, lookSeconds } = settings;
  const put = (after: object, name: string) => {
    const before = Object.fromEntries(Object.keys(after).map((key) => [key, settings[key as keyof typeof settings]]));
    void alter("/settings", before, after, name);
  };
  return (
    <section aria-labelledby="habits-title" className="grid gap-1.5 text-[13px]">
      <h2 id="habits-title" className="text-[13px] font-bold">
        Lists and reading
      </h2>
      <label className="flex items-center gap-2">
        Lists begin with the
        <select
          value={order}
          onChange={({ target }) => put({ order: target.value }, `Lists begin with the ${target.value} now`)}
          className={FIELD}
        >
          <option value="newest">newest</option>
          <option value="oldest">oldest</option>
        </select>
      </label>
      <label className="flex items-center gap-2">
        <input
          type="checkbox"
          checked={pinnedFirst}
          onChange={({ target }) =>
            put(
              { pinnedFirst: target.checked },
              `Pinned messages stand ${target.checked ? "on top" : "in their order"}`,
            )
          }
        />
        Pinned messages stand on top
      </label>
      <label className="flex items-center gap-2">
        An opened message counts as read
        <select
          value={readAfter ?? ""}
          onChange={({ target }) =>
            put(
              { readAfter: target.value === "" ? null : Number(target.value) },
              `An opened message counts as read ${READ_AFTER.find(([value]) => value === target.value)?.[1] ?? ""}`,
            )
          }
          className={FIELD}
        >
          {READ_AFTER.map(([value, name]) => (
            <option key={value} value={value}>
              {name}
            </option>
          ))}
          {readAfter !== null && !READ_AFTER.some(([value]) => value === String(readAfter)) && (
            <option value={readAfter}>after {readAfter} seconds</option>
          )}
        </select>
      </label>
      <label className="flex items-center gap-2">
        <input
          type="checkbox"
          checked={lookSeconds !== null}
          onChange={({ target }) =>
            put({ lookSeconds: target.checked ? 120 : null }, `A pass ${target.checked ? "shows" : "hides"} the time`)
          }
        />
        A pass shows how long a message is looked at, in amber after two minutes
      </label>
      <p className="max-w-[60ch] text-ink-2">
        A place where you have chosen another order keeps it. The next key after opening can take the mark back: U.
      </p>
    </section>
  );
}
