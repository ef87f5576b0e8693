import { useState, type RefObject } from "react";
import { readTask } from "@/core/agenda";
import { useView } from "../state/store";
import { addTask } from "./acts";
import { factsOf } from "./words";

interface Props {
  readonly field: RefObject<HTMLInputElement | null>;
  /** @param id what it is known by */
  readonly onAdded: (id: number) => void;
}

/** A task in one line; what of it is date, length and repeating is said as it is typed. */
export function QuickEntry({ field, onAdded }: Props) {
  const zone = useView((v) => v.home?.person.zone ?? "UTC");
  const [line, setLine] = useState("");
  const now = new Date();
  const quick = readTask(line, now, zone);
  const facts = factsOf(quick, zone, now);
  const add = async () => {
    if (quick.title === "") return;
    // The next one may be typed while this one is on its way.
    setLine("");
    const { id, stored } = addTask(quick);
    onAdded(id);
    if (!(await stored)) setLine((typed) => typed || line);
  };
  return (
    <form
      aria-label="A new task"
      className="border-b border-rule bg-well px-3.5 py-2"
      onSubmit={(event) => {
        event.preventDefault();
        void add();
      }}
    >
      <span className="flex gap-2">
        <input
          ref={field}
          aria-label="What is to be done"
          value={line}
          maxLength={300}
          placeholder="ring the helicopter people fri 10 30m !"
          onChange={({ target }) => setLine(target.value)}
          onKeyDown={({ key, currentTarget }) => key === "Escape" && currentTarget.blur()}
          className="min-w-0 flex-1 rounded-sm border border-edge bg-sheet px-2 py-1"
        />
        <button
          type="submit"
          disabled={quick.title === ""}
          className="rounded-sm bg-ink px-3 py-1 text-paper disabled:opacity-40"
        >
          Add
        </button>
      </span>
      <p role="status" className="min-h-[1.4em] truncate pt-1 text-xs text-ink-2">
        {line.trim() !== "" && (
          <>
            <b className="text-ink">{quick.title}</b>
            {facts && ` · ${facts}`}
            {quick.pressing && " · pressing"}
          </>
        )}
      </p>
    </form>
  );
}
