import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { CalendarShape, EventShape } from "@/core/api";
import {
  comesAgain,
  isDay,
  readWall,
  ruleOf,
  troubleOf,
  wallAt,
  wallOf,
  WORKDAYS,
  type EventPatch,
} from "@/core/calendar";
import { isAddress } from "@/core/letter";
import { readWhen } from "@/core/when";
import { AddLine } from "../parts/add-line";
import { Field, FIELD } from "../parts/field";
import { TextEdit } from "../parts/text-edit";
import { identities } from "../state/reads";
import { notify } from "../state/store";
import { allowNotifications } from "./reminders";
import type { Shown } from "./shown";
import { againText, dayText, kindText } from "./words";

interface Props {
  readonly shown: Shown;
  readonly title: string;
  readonly calendars: readonly CalendarShape[];
  readonly zone: string;
  readonly onChange: (patch: EventPatch) => void;
  readonly onRemove: () => void;
  readonly onOpen: () => void;
  readonly onTell: (what: "changed" | "off") => Promise<boolean>;
  /** @returns whether they are asked */
  readonly onInvite: (addresses: readonly string[]) => Promise<boolean>;
}

const TELL = "rounded-sm border border-edge bg-sheet px-2.5 py-1";

/** The first field of the event that is shown, for the key that leads there. */
export const FIRST_FIELD = "event-title";

const RULES: readonly (readonly [rule: string, name: string])[] = [
  ["", "once"],
  [ruleOf("1 day")!, "every day"],
  [WORKDAYS, "every workday"],
  [ruleOf("1 week")!, "every week"],
  [ruleOf("2 week")!, "every 2 weeks"],
  [ruleOf("1 month")!, "every month"],
  [ruleOf("1 year")!, "every year"],
];

/** "1 h 30", "90", "45m", "2 days" as seconds; null for none of them. */
export function readLength(text: string, whole: boolean): number | null {
  const [, days, hours, minutes, only] =
    /^\s*(?:(\d{1,3})\s*d(?:ays?)?|(?:(\d{1,3})\s*h)?\s*(?:(\d{1,4})\s*(?:m|min)?)?|(\d{1,5}))\s*$/.exec(text) ?? [];
  if (days) return Number(days) * 86_400;
  const sum = Number(hours ?? 0) * 60 + Number(minutes ?? only ?? 0);
  if (text.trim() === "" || (sum === 0 && !/0/.test(text))) return null;
  return whole ? null : sum * 60;
}

export function lengthText(seconds: number, whole: boolean): string {
  if (whole) return seconds === 86_400 ? "1 day" : `${seconds / 86_400} days`;
  const [hours, minutes] = [Math.floor(seconds / 3600), Math.round((seconds % 3600) / 60)];
  return [hours > 0 && `${hours} h`, (minutes > 0 || hours === 0) && `${minutes} min`].filter(Boolean).join(" ");
}

/** When it begins, as it is written in its field. */
const startText = (at: string): string =>
  `${dayText(at.slice(0, 10))} ${at.slice(0, 4)}${at.length > 10 ? ` ${at.slice(11, 16)}` : ""}`;

const addressesIn = (text: string): string[] => text.split(/[\s,;]+/).filter((one) => one !== "");

/** Everything about an event, to be changed. */
export function EventDetails({ shown, title, calendars, zone, onChange, onRemove, onOpen, onTell, onInvite }: Props) {
  const { event } = shown;
  // One that stands elsewhere has its own time, one of a series that of which it is.
  const at = event.instead === null && comesAgain(event) ? shown.at : event.start;
  const whole = isDay(event.start);
  const own = event.zone === "" || event.zone === zone ? null : event.zone;
  const readStart = (text: string): string | null => {
    const found = /^(\d{4}-\d{2}-\d{2})(?:[T ](\d{1,2}):(\d{2}))?$/.exec(text.trim());
    if (found) return found[2] ? `${found[1]}T${found[2].padStart(2, "0")}:${found[3]}` : found[1]!;
    const when = readWhen(text.replace(/^(mon|tue|wed|thu|fri|sat|sun)\s+(?=\d)/i, ""), new Date(), zone);
    if (!when.ok) return null;
    return wallOf(wallAt(zone, when.at.getTime()), whole);
  };
  const isUsual = RULES.some(([rule]) => rule === (event.rule ?? ""));
  const kind = kindText(event);
  const [isTelling, setTelling] = useState(false);
  /** Once for two presses. */
  const tell = async (what: "changed" | "off") => {
    setTelling(true);
    await onTell(what);
    setTelling(false);
  };
  const ask = async (text: string): Promise<boolean> => {
    const addresses = addressesIn(text);
    const wrong = addresses.find((one) => !isAddress(one));
    if (wrong === undefined) return onInvite(addresses);
    notify(`“${wrong}” is no address. Nobody was asked.`, "trouble");
    return false;
  };
  const { data: identitiesRead = [] } = useQuery(identities);
  const isOwn = identitiesRead.some(({ address }) => address.toLowerCase() === event.organizer);
  return (
    <section
      aria-label="The event"
      className="grid grid-cols-[76px_minmax(0,1fr)] items-start gap-x-3 gap-y-1.5 px-3.5 py-3 text-[13px]"
    >
      <span className="pt-1 text-ink-2">what</span>
      <Field
        id={FIRST_FIELD}
        label="What takes place"
        value={title}
        problem={(text) =>
          text.trim() === "" ? "Say what it is." : text.length > 500 ? "At most 500 characters." : null
        }
        onDone={(text) => onChange({ title: text })}
      />
      <span className="pt-1 text-ink-2">begins</span>
      <span className="grid gap-1">
        <Field
          label="When it begins"
          value={startText(at)}
          placeholder="fri 10, 5 dec 14:30"
          problem={(text) => (readStart(text) === null ? "Write a day, and a time: 5 dec 14:30." : null)}
          onDone={(text) => {
            const start = readStart(text)!;
            const isNow = isDay(start);
            if (isNow === whole) onChange({ start });
            else onChange({ start, length: isNow ? 86_400 : 3600, zone: isNow ? "" : zone });
          }}
        />
        {own && <span className="text-xs text-ink-2">by the clock of {own}</span>}
      </span>
      <span className="pt-1 text-ink-2">lasts</span>
      <span className="flex items-start gap-3">
        <Field
          className="w-28"
          label="How long it lasts"
          value={lengthText(event.length, whole)}
          problem={(text) =>
            readLength(text, whole) === null ? (whole ? "Write: 2 days." : "Write: 1 h 30, 45 min.") : null
          }
          onDone={(text) => onChange({ length: readLength(text, whole)! })}
        />
        <label className="flex items-center gap-1.5 pt-1">
          <input
            type="checkbox"
            checked={whole}
            onChange={({ target }) =>
              target.checked
                ? onChange({ start: at.slice(0, 10), length: 86_400, zone: "" })
                : onChange({ start: `${at.slice(0, 10)}T09:00`, length: 3600, zone })
            }
          />
          whole day
        </label>
      </span>
      <span className="pt-1 text-ink-2">again</span>
      <span className="grid gap-1">
        {event.instead !== null ? (
          <span className="pt-1 text-ink-2">one of a series, changed by itself</span>
        ) : (
          <select
            aria-label="How often it comes again"
            value={isUsual ? (event.rule ?? "") : "other"}
            onChange={({ target }) => target.value !== "other" && onChange({ rule: target.value || null })}
            className={FIELD}
          >
            {RULES.map(([rule, name]) => (
              <option key={rule} value={rule}>
                {name}
              </option>
            ))}
            {!isUsual && <option value="other">{againText(event.rule!)}</option>}
          </select>
        )}
        {event.rule !== null && !event.rule.includes("\n") && (
          <Field
            label="As a recurrence rule"
            className="font-mono text-xs"
            value={event.rule}
            problem={(text) => troubleOf(text.trim().toUpperCase())}
            onDone={(text) => onChange({ rule: text.toUpperCase() })}
          />
        )}
      </span>
      <span className="pt-1 text-ink-2">where</span>
      <Field label="Where" value={event.place} problem={() => null} onDone={(place) => onChange({ place })} />
      <span className="pt-1 text-ink-2">calendar</span>
      <span className="flex flex-wrap items-center gap-x-4 gap-y-1">
        <select
          aria-label="Calendar"
          value={event.calendar}
          disabled={event.instead !== null}
          onChange={({ target }) => onChange({ calendar: Number(target.value) })}
          className={FIELD}
        >
          {calendars.map(({ id, name }) => (
            <option key={id} value={id}>
              {name}
            </option>
          ))}
        </select>
        <label className="flex items-center gap-1.5">
          <input type="checkbox" checked={event.busy} onChange={({ target }) => onChange({ busy: target.checked })} />
          takes the time
        </label>
      </span>
      <span className="pt-1 text-ink-2">reminder</span>
      <span className="flex items-center gap-2">
        <Field
          className="w-20"
          label="Minutes before it begins that it is said"
          value={event.remind === null ? "" : String(event.remind)}
          placeholder="none"
          problem={(text) => (/^\d{0,5}$/.test(text.trim()) && Number(text) <= 40_320 ? null : "Minutes, up to 40320.")}
          onDone={(text) => {
            onChange({ remind: text === "" ? null : Number(text) });
            if (text !== "") void allowNotifications();
          }}
        />
        <span className="text-ink-2">minutes before</span>
      </span>
      {event.block !== null && (
        <>
          <span className="pt-1 text-ink-2">mail</span>
          <Field
            label="Which mail is worked through"
            className="font-mono text-xs"
            value={event.block}
            problem={() => null}
            onDone={(block) => onChange({ block })}
          />
        </>
      )}
      <span className="pt-1 text-ink-2">note</span>
      <TextEdit
        key={event.id}
        label="Note"
        empty=""
        lines={event.note === "" ? 2 : 4}
        maxLength={20_000}
        value={event.note}
        onChange={async (note) => {
          onChange({ note });
          return true;
        }}
      />
      {event.attendees.length > 0 && (
        <>
          <span className="pt-1 text-ink-2">asked</span>
          <ul aria-label="Who was asked" className="pt-1">
            {event.attendees.map(({ address, name, reply }) => (
              <li key={address} className="truncate">
                {name || address} <span className="text-ink-2">{reply.replace("-", " ")}</span>
              </li>
            ))}
          </ul>
        </>
      )}
      {event.attendees.length > 0 && isOwn && (
        <>
          <span />
          <span className="flex flex-wrap gap-2">
            <button type="button" disabled={isTelling} onClick={() => void tell("changed")} className={TELL}>
              Tell them how it is now
            </button>
            {event.state !== "cancelled" && (
              <button type="button" disabled={isTelling} onClick={() => void tell("off")} className={TELL}>
                Call it off
              </button>
            )}
          </span>
        </>
      )}
      {event.instead === null && event.task === null && event.block === null && (
        <>
          <span className="pt-1 text-ink-2">ask</span>
          {/* Letters go out by it: not because a field is left, nor because a window is. */}
          <AddLine label="Whom to ask, by their addresses" placeholder="ines@larch.example, …" verb="Ask" onAdd={ask} />
        </>
      )}
      <span />
      <span className="flex flex-wrap items-center gap-2 pt-1">
        {(event.block !== null || event.message !== null || event.task !== null) && (
          <button type="button" onClick={onOpen} className="rounded-sm bg-ink px-2.5 py-1 text-paper">
            {event.block !== null ? "Work through it" : event.message !== null ? "Open its message" : "Show its task"}
          </button>
        )}
        <button type="button" onClick={onRemove} className="rounded-sm border border-edge bg-sheet px-2.5 py-1">
          Delete
        </button>
        <span className="text-xs text-ink-2">{kind}</span>
      </span>
    </section>
  );
}

/** Where an event is moved to by so many minutes, by its clock. */
export const startMoved = (at: string, minutes: number): string => wallOf(readWall(at) + minutes * 60_000, isDay(at));
/** The time a series says this one has, or its own. */
export const timeOf = (event: EventShape, at: string): string =>
  event.instead === null && comesAgain(event) ? at : event.start;
