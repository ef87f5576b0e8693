import { useQuery } from "@tanstack/react-query";
import { useRef, useState } from "react";
import type { CalendarShape, IcsTaken } from "@/core/api";
import { CALENDAR_COLOURS } from "@/core/change";
import { Field, FIELD } from "../parts/field";
import { countText } from "../parts/words";
import { calendarAddress, write } from "../state/api";
import { byHand } from "../state/hands";
import { calendars as calendarsRead, reads } from "../state/reads";
import { notify } from "../state/store";
import { takeIn, TakenProblems } from "./take-in";
import { EDGE } from "./words";

interface Props {
  readonly hidden: ReadonlySet<number>;
  readonly onHide: (id: number, hide: boolean) => void;
  readonly onHours: () => void;
}

const BUTTON = "rounded-sm border border-edge bg-sheet px-2 py-0.5 text-xs";

async function store(send: () => Promise<unknown>, said: string): Promise<void> {
  try {
    await byHand(send);
    notify(said);
  } catch (error) {
    notify(error instanceof Error ? `Not stored: ${error.message}` : "Not stored.", "trouble");
  }
  void reads.invalidateQueries({ queryKey: calendarsRead.queryKey });
  void reads.invalidateQueries({ queryKey: ["events"] });
}

/** Calendars: which are shown, what they are called, who else reads them, and what comes in and goes out. */
export function Calendars({ hidden, onHide, onHours }: Props) {
  const { data } = useQuery(calendarsRead);
  const [taken, setTaken] = useState<IcsTaken | null>(null);
  return (
    <section aria-label="Calendars" className="text-[13px]">
      <ul>
        {data?.map((one) => (
          <CalendarRow key={one.id} one={one} hidden={hidden.has(one.id)} onHide={onHide} onTaken={setTaken} />
        ))}
      </ul>
      <p className="flex gap-2 px-3.5 py-2">
        <button
          type="button"
          className={BUTTON}
          onClick={() =>
            void store(
              () =>
                write("POST", "/calendars", {
                  name: "New calendar",
                  colour: CALENDAR_COLOURS[(data?.length ?? 0) % 5],
                }),
              "A new calendar. U takes it back.",
            )
          }
        >
          New calendar
        </button>
        <button type="button" className={BUTTON} onClick={onHours}>
          Working hours…
        </button>
      </p>
      {taken && taken.problems.length > 0 && <TakenProblems taken={taken} onSeen={() => setTaken(null)} />}
    </section>
  );
}

interface RowProps {
  readonly one: CalendarShape;
  readonly hidden: boolean;
  readonly onHide: Props["onHide"];
  readonly onTaken: (taken: IcsTaken | null) => void;
}

function CalendarRow({ one, hidden, onHide, onTaken }: RowProps) {
  const file = useRef<HTMLInputElement>(null);
  const [isOpen, setOpen] = useState(false);
  const change = (body: Partial<Pick<CalendarShape, "name" | "colour">>) =>
    void store(
      () => write("PATCH", `/calendars/${one.id}`, body),
      `Changed calendar ${body.name ?? one.name}. U takes it back.`,
    );
  const address = one.address && `${location.origin}${one.address}`;
  return (
    <li className="border-b border-rule-soft px-3.5 py-1.5">
      <span className="flex items-baseline gap-2">
        <label className="flex min-w-0 flex-1 items-center gap-2">
          <input type="checkbox" checked={!hidden} onChange={({ target }) => onHide(one.id, !target.checked)} />
          <span className={`truncate border-b-2 font-semibold ${EDGE[one.colour]}`}>{one.name}</span>
        </label>
        <span className="num text-xs text-ink-2">{countText(one.events)}</span>
        <button type="button" aria-expanded={isOpen} onClick={() => setOpen(!isOpen)} className={BUTTON}>
          {isOpen ? "less" : "more"}
        </button>
      </span>
      {isOpen && (
        <div className="grid gap-2 py-2">
          <span className="flex gap-2">
            <Field
              className="flex-1"
              label="Name of the calendar"
              value={one.name}
              problem={(text) =>
                text.trim() === "" ? "Give it a name." : text.length > 80 ? "At most 80 characters." : null
              }
              onDone={(name) => change({ name })}
            />
            <select
              aria-label="Colour"
              value={one.colour}
              onChange={({ target }) => change({ colour: target.value as CalendarShape["colour"] })}
              className={FIELD}
            >
              {CALENDAR_COLOURS.map((colour) => (
                <option key={colour}>{colour}</option>
              ))}
            </select>
          </span>
          <span className="flex flex-wrap gap-2">
            <button type="button" className={BUTTON} onClick={() => file.current?.click()}>
              Take a file in…
            </button>
            <input
              ref={file}
              type="file"
              accept=".ics,text/calendar"
              aria-label="Calendar file"
              className="sr-only"
              onChange={({ target }) => {
                const chosen = target.files?.[0];
                target.value = "";
                if (chosen) void takeIn(one.id, chosen).then(onTaken);
              }}
            />
            <a href={calendarAddress(one.id)} download className={BUTTON}>
              As a file
            </a>
            <button
              type="button"
              className={BUTTON}
              onClick={() =>
                void store(
                  () => write("DELETE", `/calendars/${one.id}`),
                  `Deleted calendar ${one.name} with all that was in it. U takes it back.`,
                )
              }
            >
              Delete
            </button>
          </span>
          {address === null ? (
            <button
              type="button"
              className={`${BUTTON} justify-self-start`}
              onClick={() =>
                void store(
                  () => write("POST", `/calendars/${one.id}/address`),
                  "Whoever has the address can read this calendar.",
                )
              }
            >
              Give it an address for other programs
            </button>
          ) : (
            <span className="grid gap-1">
              <input
                aria-label="Address"
                readOnly
                value={address}
                onFocus={({ target }) => target.select()}
                className={`${FIELD} font-mono text-xs`}
              />
              <button
                type="button"
                className={`${BUTTON} justify-self-start`}
                onClick={() =>
                  void store(
                    () => write("DELETE", `/calendars/${one.id}/address`),
                    "The address reads nothing any more.",
                  )
                }
              >
                Take the address away
              </button>
            </span>
          )}
        </div>
      )}
    </li>
  );
}
