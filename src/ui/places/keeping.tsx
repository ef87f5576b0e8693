"use client";
import { useView } from "../state/store";
import { alter } from "./act";

const CHOICES = [7, 14, 30, 60, 90, 365] as const;

function Days({ name, title }: { readonly name: "trashDays" | "junkDays"; readonly title: string }) {
  const days = useView((v) => v.home?.settings[name] ?? null);
  const put = (text: string) => {
    const next = text === "" ? null : Number(text);
    const said = next === null ? `${title} keeps mail until it is emptied` : `${title} keeps mail for ${next} days`;
    void alter("/settings", { [name]: days }, { [name]: next }, said);
  };
  return (
    <label className="flex items-center gap-2">
      {title} keeps a message
      <select
        value={days ?? ""}
        onChange={(event) => put(event.target.value)}
        className="rounded-sm border border-rule bg-sheet px-1 py-0.5"
      >
        {CHOICES.map((choice) => (
          <option key={choice} value={choice}>
            {choice} days
          </option>
        ))}
        {days !== null && !CHOICES.some((choice) => choice === days) && <option value={days}>{days} days</option>}
        <option value="">until it is emptied</option>
      </select>
    </label>
  );
}

/** How long trash and junk keep mail. */
export function Keeping() {
  return (
    <section aria-labelledby="keeping-title" className="grid gap-1.5 text-[13px]">
      <h2 id="keeping-title" className="text-[13px] font-bold">
        Trash and junk
      </h2>
      <Days name="trashDays" title="Trash" />
      <Days name="junkDays" title="Junk" />
      <p className="max-w-[60ch] text-ink-2">
        Counted from when it came there. Then it is deleted for good, which nothing brings back.
      </p>
    </section>
  );
}
