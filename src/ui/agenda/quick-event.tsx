import { useState, type RefObject } from "react";
import { isDay, readEvent, WORKDAYS, type EventLine } from "@/core/calendar";
import { againText, dayText } from "./words";
import type { Day } from "./shown";

interface Props {
  readonly field: RefObject<HTMLInputElement | null>;
  readonly day: Day;
  readonly zone: string;
  readonly onAdd: (line: EventLine & { readonly block?: string }) => Promise<boolean>;
}

/** "Tue 1 Dec, 10:00, 2 h, every week" */
export function lineText({ start, length, rule, place }: EventLine): string {
  const hours = Math.floor(length / 3600);
  const minutes = Math.round((length % 3600) / 60);
  const long = [hours > 0 && `${hours} h`, minutes > 0 && `${minutes} min`].filter(Boolean).join(" ");
  const days = length / 86_400;
  const time = isDay(start) ? (days === 1 ? "whole day" : `${days} days`) : `${start.slice(11)}, ${long || "a moment"}`;
  return [dayText(start.slice(0, 10)), time, rule && againText(rule), place && `at ${place}`]
    .filter(Boolean)
    .join(", ");
}

/** An event in one line; what of it is when, how long, how often and where is said as it is typed. */
export function QuickEvent({ field, day, zone, onAdd }: Props) {
  const [line, setLine] = useState("");
  const read = readEvent(line, day, new Date(), zone);
  const add = async (event: EventLine & { readonly block?: string }) => {
    setLine("");
    // Keys go to what was made, not to the button that made it.
    if (document.activeElement instanceof HTMLButtonElement) document.activeElement.blur();
    if (!(await onAdd(event))) setLine((typed) => typed || line);
  };
  /** Time to work through the inbox each workday, which is changed where it stands. */
  const addBlock = () =>
    void add({ title: "Mail", place: "", start: `${day}T09:00`, length: 1800, rule: WORKDAYS, block: "folder=Inbox" });
  return (
    <form
      aria-label="A new event"
      className="border-b border-rule bg-well px-3.5 py-2"
      onSubmit={(event) => {
        event.preventDefault();
        if (read.title !== "") void add(read);
      }}
    >
      <span className="flex gap-2">
        <input
          ref={field}
          aria-label="What takes place"
          value={line}
          maxLength={500}
          placeholder="inspection tue 10-12 @ Tarn Hut"
          onChange={({ target }) => setLine(target.value)}
          onKeyDown={({ key, currentTarget }) => key === "Escape" && currentTarget.blur()}
          className="min-w-0 flex-1 rounded-sm border border-edge bg-sheet px-2 py-1"
        />
        <button
          type="submit"
          disabled={read.title === ""}
          className="rounded-sm bg-ink px-3 py-1 text-paper disabled:opacity-40"
        >
          Add
        </button>
        <button
          type="button"
          onClick={addBlock}
          title="Half an hour each workday to work through the inbox"
          className="rounded-sm border border-edge bg-sheet px-3 py-1"
        >
          Time for mail
        </button>
      </span>
      <p role="status" className="min-h-[1.4em] truncate pt-1 text-xs text-ink-2">
        {line.trim() !== "" && (
          <>
            <b className="text-ink">{read.title}</b> · {lineText(read)}
          </>
        )}
      </p>
    </form>
  );
}
