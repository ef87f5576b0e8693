import type { IcsTaken } from "@/core/api";
import { countText, plural } from "../parts/words";
import { uploadCalendar } from "../state/api";
import { byHand } from "../state/hands";
import { reads } from "../state/reads";
import { notify } from "../state/store";

/** Files of other calendars, taken in. */

/** What came of a file: how much is here now, and what of it could not be read. */
export function takenText({ events, same, tasks, problems, more }: IcsTaken): string {
  const parts = [
    `${plural(events, "event")} taken in`,
    tasks > 0 && plural(tasks, "task"),
    same > 0 && `${countText(same)} were here already`,
    problems.length > 0 && plural(problems.length + more, "problem"),
  ];
  return `${parts.filter(Boolean).join(", ")}.${events + tasks > 0 ? " U takes it back." : ""}`;
}

/** Takes a file in. @returns what came of it; null where nothing could be done, which is said */
export async function takeIn(calendar: number, file: File): Promise<IcsTaken | null> {
  try {
    const taken = await byHand(() => uploadCalendar(calendar, file));
    notify(takenText(taken), taken.problems.length > 0 ? "trouble" : "plain");
    for (const key of ["events", "tasks", "calendars"]) void reads.invalidateQueries({ queryKey: [key] });
    return taken;
  } catch (error) {
    notify(error instanceof Error ? `Not taken in: ${error.message}` : "Not taken in.", "trouble");
    return null;
  }
}

/** What of a file could not be read, each by its line. */
export function TakenProblems({ taken, onSeen }: { readonly taken: IcsTaken; readonly onSeen: () => void }) {
  return (
    <div
      role="alert"
      className="max-h-[50vh] overflow-y-auto border-t border-rule bg-amber-soft px-3.5 py-2 text-[13px]"
    >
      <p className="flex items-baseline gap-2 font-bold">
        <span className="flex-1">{takenText(taken)}</span>
        <button
          type="button"
          onClick={onSeen}
          className="rounded-sm border border-edge bg-sheet px-2 py-0.5 font-normal"
        >
          Seen
        </button>
      </p>
      <ol aria-label="What could not be read">
        {taken.problems.map(({ line, text }, i) => (
          <li key={i}>
            <span className="num">line {countText(line)}</span>: {text}
          </li>
        ))}
      </ol>
      {taken.more > 0 && <p>and {countText(taken.more)} more.</p>}
    </div>
  );
}
