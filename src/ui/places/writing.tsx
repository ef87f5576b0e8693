import { notify, useView } from "../state/store";
import { alter } from "./act";

const FIELD = "rounded-sm border border-rule bg-sheet px-1 py-0.5";
const HOLDS = [0, 5, 10, 20, 30, 60, 120];
const PEOPLE = [1, 5, 10, 20, 50];

/** Asks the browser to bring mailto: links here. */
function openMailLinks(): void {
  try {
    navigator.registerProtocolHandler("mailto", `${location.origin}/compose?mailto=%s`);
    notify("Asked: the browser says whether mail links open here.");
  } catch {
    notify("This browser brings mail links only to pages at https or at this machine's own name.", "trouble");
  }
}

/** How long mail is held back, what is asked about, and what follows a letter. */
export function Writing() {
  const settings = useView((v) => v.home?.settings);
  const macros = useView((v) => v.macros);
  if (!settings) return null;
  const { holdSeconds, mostPeople, afterwards } = settings;
  const put = (after: object, name: string) => {
    const before = Object.fromEntries(Object.keys(after).map((key) => [key, settings[key as keyof typeof settings]]));
    void alter("/settings", before, after, name);
  };
  return (
    <section aria-labelledby="writing-title" className="grid gap-1.5 text-[13px]">
      <h2 id="writing-title" className="text-[13px] font-bold">
        Writing
      </h2>
      <label className="flex items-center gap-2">
        A letter is held back for
        <select
          value={holdSeconds}
          onChange={({ target }) =>
            put({ holdSeconds: Number(target.value) }, `Letters are held back for ${target.value} seconds now`)
          }
          className={FIELD}
        >
          {[...new Set([...HOLDS, holdSeconds])]
            .sort((a, b) => a - b)
            .map((seconds) => (
              <option key={seconds} value={seconds}>
                {seconds} seconds
              </option>
            ))}
        </select>
        and U calls it back
      </label>
      <label className="flex items-center gap-2">
        One to more than
        <select
          value={mostPeople}
          onChange={({ target }) =>
            put({ mostPeople: Number(target.value) }, `Letters to more than ${target.value} people are asked about`)
          }
          className={FIELD}
        >
          {[...new Set([...PEOPLE, mostPeople])]
            .sort((a, b) => a - b)
            .map((people) => (
              <option key={people} value={people}>
                {people} {people === 1 ? "person" : "people"}
              </option>
            ))}
        </select>
        is asked about
      </label>
      <label className="flex items-center gap-2">
        <kbd>Ctrl ⇧ ⏎</kbd> sends and then runs
        <select
          value={afterwards ?? ""}
          onChange={({ target }) =>
            put(
              { afterwards: target.value === "" ? null : Number(target.value) },
              "What follows a letter is another macro now",
            )
          }
          className={FIELD}
        >
          <option value="">Archive</option>
          {macros.map(({ id, name }) => (
            <option key={id} value={id}>
              {name}
            </option>
          ))}
        </select>
      </label>
      <p className="flex flex-wrap items-center gap-2">
        <button type="button" onClick={openMailLinks} className="rounded-sm border border-edge bg-sheet px-2 py-1">
          Open mail links of other pages here
        </button>
        <span className="text-ink-2">the browser asks whether it may</span>
      </p>
    </section>
  );
}
