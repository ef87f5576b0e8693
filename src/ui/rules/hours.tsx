import { useQuery } from "@tanstack/react-query";
import { plural } from "@/core/text";
import { hours } from "../state/reads";
import { hoursFor } from "./edits";
import { HoursRow } from "./hours-row";
import { LetIn } from "./let-in";

/** The hours in which mail is let in. */
export function HoursOfMail() {
  const { data, error, refetch } = useQuery(hours);
  return (
    <section aria-labelledby="hours-title">
      <header className="flex flex-wrap items-center gap-x-3 gap-y-1 border-b border-rule bg-well px-3.5 py-1.5 text-[13px]">
        <h2 id="hours-title" className="font-bold">
          Hours
        </h2>
        <span className="min-w-0 flex-1 text-ink-2">
          {data && data.waiting > 0
            ? `${plural(data.waiting, "message")} wait.`
            : "Mail that comes in outside of them waits, unseen, until they begin."}
        </span>
        <LetIn />
        <button
          type="button"
          onClick={() => void hoursFor("")}
          className="rounded-sm border border-edge bg-sheet px-2 py-0.5"
        >
          New hours
        </button>
      </header>
      {error && (
        <p role="alert" className="bg-brick-soft px-3.5 py-2 text-[13px]">
          {error.message}{" "}
          <button type="button" onClick={() => void refetch()} className="underline">
            Read again
          </button>
        </p>
      )}
      <ol aria-label="Hours">
        {data?.hours.map((one, i) => (
          <HoursRow key={one.id} one={one} place={i} />
        ))}
      </ol>
    </section>
  );
}
