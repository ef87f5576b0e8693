import type { EventShape, FitShape, TaskShape } from "@/core/api";
import { editEvent, type EventEdit, type EventLine, type EventPatch, type Scope } from "@/core/calendar";
import { PLAIN_EVENT, type CalendarEvent } from "@/core/change";
import { write } from "../state/api";
import { storeByHand } from "../state/hands";
import { dateText } from "../parts/words";
import { reads } from "../state/reads";
import { notify, view } from "../state/store";
import { storedId } from "../tasks/acts";

/** What is done to calendars: shown at once, stored in order, and each an entry that undo takes back. */

const EVENTS = ["events"];
const zone = (): string => view().home?.person.zone ?? "UTC";

function show(change: (all: readonly EventShape[]) => EventShape[]): void {
  // What is being read is old by now, and must not come back over it.
  void reads.cancelQueries({ queryKey: EVENTS });
  reads.setQueriesData<EventShape[]>({ queryKey: EVENTS }, (all) => all && change(all));
}

const store = (send: () => Promise<unknown>, said: string): Promise<boolean> => storeByHand(send, said, EVENTS);

/** What is new has a number of its own until the server says what it is called. */
const called = new Map<number, number>();
const first = new Map<number, number>();
let last = 0;
const idOf = (id: number): number => called.get(id) ?? id;
/** What an event is known by as long as the screen is there: the same before and after it was stored. */
export const lasting = (id: number): number => first.get(id) ?? id;

const placeholder = (id: number, value: CalendarEvent, message: number | null): EventShape => ({
  ...value,
  also: [...value.also],
  except: [...value.except],
  attendees: [...value.attendees],
  id,
  message,
});

export type NewEvent = EventLine & Partial<Pick<CalendarEvent, "block" | "calendar" | "zone" | "note">>;

/** Adds an event: it is there at once, and may be changed before it is stored. @returns what it is known by */
export function addEvent(line: NewEvent): { readonly id: number; readonly stored: Promise<boolean> } {
  const id = --last;
  const fields = { zone: line.start.length === 10 ? "" : zone(), ...line };
  const value: CalendarEvent = {
    ...PLAIN_EVENT,
    calendar: 0,
    uid: `new ${id}`,
    ...fields,
  };
  show((all) => [...all, placeholder(id, value, null)]);
  const send = async () => {
    const made = await write<EventShape>("POST", "/events", fields);
    called.set(id, made.id);
    first.set(made.id, id);
  };
  return { id, stored: store(send, `In the calendar: ${line.title}.`) };
}

/** Shows what becomes of an event. @returns what is new by that, as it is known from now on */
function changed(event: EventShape, at: string, scope: Scope, patch: EventPatch | null): number[] {
  const made: number[] = [];
  let told: readonly EventEdit<number>[] | null = null;
  show((all) => {
    // Where it was shown before it was stored, it may be the other by now.
    const now = all.find((one) => lasting(one.id) === lasting(event.id)) ?? event;
    const own = all.flatMap((one) =>
      one.instead !== null && one.uid === now.uid && one.calendar === now.calendar && one.id !== now.id
        ? [{ key: one.id, event: valueOf(one) }]
        : [],
    );
    // Several months may be held: what is new is called the same in all of them.
    told ??= editEvent({ key: now.id, event: valueOf(now), own }, at, scope, patch, `new ${last - 1}`);
    let fresh = 0;
    let next = [...all];
    for (const { key, after } of told) {
      if (key === null && after) {
        const id = made[fresh] ?? --last;
        made[fresh++] = id;
        next.push(placeholder(id, after, event.message));
      } else if (after === null) next = next.filter(({ id }) => id !== key);
      else next = next.map((one) => (one.id === key ? placeholder(one.id, after, one.message) : one));
    }
    return next;
  });
  return made;
}

function valueOf({ id: _, message: __, ...value }: EventShape): CalendarEvent {
  return value;
}

/** @returns what shows the one that was changed, as it is known from now on */
export function changeEvent(event: EventShape, at: string, scope: Scope, patch: EventPatch): number {
  const made = changed(event, at, scope, patch);
  const send = async () => {
    const stored = await write<EventShape[]>("PATCH", `/events/${idOf(event.id)}`, { at, scope, ...patch });
    // What is new has the highest numbers, in the order it was made.
    stored.slice(stored.length - made.length).forEach(({ id }, i) => {
      called.set(made[i]!, id);
      first.set(id, made[i]!);
    });
  };
  void store(send, `Changed: ${patch.title ?? event.title}.`);
  return made[0] ?? lasting(event.id);
}

export function removeEvent(event: EventShape, at: string, scope: Scope): Promise<boolean> {
  changed(event, at, scope, null);
  return store(
    () => write("DELETE", `/events/${idOf(event.id)}`, { at, scope }),
    `Out of the calendar: ${event.title}.`,
  );
}

/** Gives a task time: then, or the first that is free before it is due. */
export async function giveTime(task: TaskShape, start?: string): Promise<boolean> {
  let given: Span | null = null;
  const stored = await store(async () => {
    given = await write<Span>("POST", `/tasks/${storedId(task)}/time`, start ? { start } : {});
  }, `Time for ${task.title}.`);
  const at = given as Span | null;
  if (stored && at) notify(`Time for ${task.title}: ${dateText(at.start, zone(), new Date())}. U takes it back.`);
  return stored;
}

/** Asks people to an event: each gets an invitation, through the outbox. */
export const askTo = (event: EventShape, addresses: readonly string[]): Promise<boolean> =>
  store(
    () => write("POST", `/events/${idOf(event.id)}/invite`, { people: addresses.map((address) => ({ address })) }),
    `Invitations to ${event.title} are in the outbox.`,
  );

/** Tells those who were asked to an event what has become of it, through the outbox. */
export const tellOf = (event: EventShape, what: "changed" | "off"): Promise<boolean> =>
  store(
    () => write("POST", `/events/${idOf(event.id)}/tell`, { what }),
    what === "off" ? `${event.title} is called off: those who were asked are told.` : `Told of ${event.title}.`,
  );

/** When something begins and ends, ISO 8601. */
interface Span {
  readonly start: string;
  readonly end: string;
}

export const applyFit = ({ moves }: FitShape): Promise<boolean> =>
  store(
    () => write("POST", "/agenda/fit", { moves: moves.map(({ task, events, after }) => ({ task, events, after })) }),
    `Time for ${moves.length === 1 ? "a task" : `${moves.length} tasks`}.`,
  );
