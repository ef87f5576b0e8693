"use client";
import { useEffect, useState } from "react";
import type { IcsTaken } from "@/core/api";
import { calendars, reads } from "../state/reads";
import { notify } from "../state/store";
import { takeIn, TakenProblems } from "./take-in";

const hasFiles = ({ dataTransfer }: DragEvent): boolean => dataTransfer?.types.includes("Files") ?? false;
const isCalendar = ({ name, type }: File): boolean => /\.(ics|ical|ifb)$/i.test(name) || type === "text/calendar";

/** All of them, one after another. @returns what came of them together; null where nothing did */
async function takeAll(files: readonly File[]): Promise<IcsTaken | null> {
  const [first] = await reads.fetchQuery({ ...calendars, staleTime: Infinity });
  if (!first) {
    notify("There is no calendar to take it into. Make one on the screen Agenda.", "trouble");
    return null;
  }
  let all: IcsTaken | null = null;
  for (const file of files) {
    const taken = await takeIn(first.id, file);
    if (taken === null) return all;
    all = all === null ? taken : together(all, taken);
  }
  return all;
}

const together = (a: IcsTaken, b: IcsTaken): IcsTaken => ({
  events: a.events + b.events,
  same: a.same + b.same,
  tasks: a.tasks + b.tasks,
  problems: [...a.problems, ...b.problems],
  more: a.more + b.more,
});

/**
 * A calendar let go of anywhere is taken in; any other file is not opened in the place of the app, as browsers would.
 * What takes files itself, a letter for one, is left to do so.
 */
export function DropAnywhere() {
  const [over, setOver] = useState(false);
  const [taken, setTaken] = useState<IcsTaken | null>(null);
  useEffect(() => {
    const move = (event: DragEvent) => {
      if (!hasFiles(event) || event.defaultPrevented) return setOver(false);
      event.preventDefault();
      setOver(true);
    };
    const leave = (event: DragEvent) => {
      if (event.relatedTarget === null) setOver(false);
    };
    const drop = (event: DragEvent) => {
      setOver(false);
      if (!hasFiles(event) || event.defaultPrevented) return;
      event.preventDefault();
      const files = [...(event.dataTransfer?.files ?? [])];
      const known = files.filter(isCalendar);
      if (known.length < files.length)
        notify("Only calendars (.ics) are taken in here. Mail comes in on the screen Import.", "trouble");
      if (known.length > 0) void takeAll(known).then((all) => setTaken(all && all.problems.length > 0 ? all : null));
    };
    window.addEventListener("dragover", move);
    window.addEventListener("dragleave", leave);
    window.addEventListener("drop", drop);
    return () => {
      window.removeEventListener("dragover", move);
      window.removeEventListener("dragleave", leave);
      window.removeEventListener("drop", drop);
    };
  }, []);
  return (
    <>
      {over && (
        <p
          role="status"
          className="pointer-events-none fixed inset-x-0 bottom-0 z-40 bg-ink px-3.5 py-2 text-center text-paper"
        >
          Let go of a calendar (.ics) here, and it is taken in.
        </p>
      )}
      {taken && <TakenProblems taken={taken} onSeen={() => setTaken(null)} />}
    </>
  );
}
