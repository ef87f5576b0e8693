import { PLAIN_TASK } from "../change";
import { cut } from "../text";
import { instantOf, wallIn, type Wall } from "../when";
import { both, withFacts } from "./deed";
import { timesInText, type FoundTime } from "./found-time";
import { factsOf, UNKNOWN, type Fail, type Get } from "./get";
import type { Op, Run } from "./op";
import type { Step } from "./step";
import type { Values } from "./values";

/** Steps that plan: what is to be done, and when. */

type Of<K extends Step["do"]> = Extract<Step, { do: K }>;

/** Of a title, and of what is said of a message. */
const LONGEST_TITLE = 300;
const USUAL_MINUTES = 60;
const SUBJECT = { take: "subject", else: "(no subject)" } as const;

const aboutOf = (run: Run): string => {
  const { fromName, fromAddress, subject } = factsOf(run);
  return cut(`${fromName || fromAddress || "no sender"}: ${subject || "(no subject)"}`, LONGEST_TITLE);
};

export function makeTask(v: Values, step: Of<"make task">): Op {
  const title = v.text(step.title ?? SUBJECT, "title");
  const due = v.time(step.due, "due");
  const make = both([title, due], (run, [what, when]) => {
    const task = {
      ...PLAIN_TASK,
      title: cut(what ?? "", LONGEST_TITLE),
      due: when ?? null,
      estimate: step.estimate ?? null,
      pressing: step.pressing ?? false,
      waiting: step.waiting ?? false,
      repeat: step.repeat ?? null,
      about: aboutOf(run),
    };
    run.make({ kind: "task", task });
    run.draft.back = null;
  });
  return withFacts(v, make);
}

/** When an event is to be: an instant, or by the day alone. */
interface Slot {
  /** ISO 8601 */
  readonly at: string;
  /** null for the whole of the day */
  readonly minutes: number | null;
}

function makesEvent(v: Values, step: Of<"block time" | "make event">, slot: (run: Run) => { value: Slot } | Fail): Op {
  const title = v.text(step.title ?? SUBJECT, "title");
  return withFacts(v, (run) => {
    const [what, when] = [title(run), slot(run)];
    for (const fail of [what, when])
      if ("fail" in fail) {
        if (fail.fail !== "ask") return fail;
        run.ask(fail.question);
      }
    if ("fail" in what || "fail" in when) return "go-on";
    const { at, minutes } = when.value;
    run.make({ kind: "event", event: { title: cut(what.value, LONGEST_TITLE), note: aboutOf(run), at, minutes } });
    run.draft.back = null;
    return "go-on";
  });
}

const atTime =
  (at: Get<string | null>, minutes: number): ((run: Run) => { value: Slot } | Fail) =>
  (run) => {
    const got = at(run);
    return "fail" in got ? got : { value: { at: got.value!, minutes } };
  };

export const blockTime = (v: Values, step: Of<"block time">): Op =>
  makesEvent(v, step, atTime(v.time(step.at, "at"), step.minutes));

/** "5 December, 9 December 14:30": what a text says of times, so many at the most. */
const MOST_SAID = 4;
const saidText = (times: readonly FoundTime[]): string =>
  times
    .slice(0, MOST_SAID)
    .map(({ day, from }) => (from === null ? day : `${day} ${from}`))
    .join(", ");

/** What the message says of its time where it says one; several or none are asked about. */
export function makeEvent(v: Values, step: Of<"make event">): Op {
  if (step.at !== undefined) return makesEvent(v, step, atTime(v.time(step.at, "at"), step.minutes ?? USUAL_MINUTES));
  const asked = v.askedTime("at");
  const { now, zone } = v.context;
  const today = dayOf(wallIn(zone, now));
  v.needs.body = true;
  return makesEvent(v, step, (run) => {
    const { subject, body, dateMs } = factsOf(run);
    if (body === null) return UNKNOWN;
    const times = timesInText(`${subject}\n\n${body}`, dateMs);
    // What is over by now is not when it is to be.
    const ahead = times.filter(({ day }) => day >= today);
    const [only] = ahead;
    if (only && ahead.length === 1) return { value: slotOf(only, step.minutes, zone) };
    const answer = asked(run);
    if (!("fail" in answer)) return { value: { at: answer.value, minutes: step.minutes ?? USUAL_MINUTES } };
    if (answer.fail !== "ask") return answer;
    const says =
      times.length === 0 ? "no day" : ahead.length === 0 ? `${saidText(times)}, which is over` : saidText(ahead);
    const prompt = `When is it? It says ${says}.`;
    return { ...answer, question: { ...answer.question, prompt } };
  });
}

const pad = (n: number): string => String(n).padStart(2, "0");
/** As days are found: "2026-12-05". */
const dayOf = ({ year, month, day }: Wall): string => `${year}-${pad(month)}-${pad(day)}`;

function slotOf({ day, from, minutes }: FoundTime, wanted: number | undefined, zone: string): Slot {
  if (from === null) return { at: day, minutes: null };
  const [year = 0, month = 0, date = 0] = day.split("-").map(Number);
  const [hour = 0, minute = 0] = from.split(":").map(Number);
  const at = instantOf(zone, { year, month, day: date, hour, minute });
  return { at: at.toISOString(), minutes: wanted ?? minutes ?? USUAL_MINUTES };
}
