import type { PaceFigure, PaceMacroShape, PaceShape, PaceSourceShape } from "@/core/api";
import { readDay } from "@/core/pace";
import { writeEquals } from "@/core/narrow";
import { countText, plural } from "../parts/words";
import { datesOf } from "./period";
import { lengthText, savedText, shortDay, stepText } from "./words";

/** A point of a figure: what it is of, its values in words, and the mail that is behind it. */
export interface Point {
  readonly key: string;
  readonly name: string;
  readonly values: readonly string[];
  /** A narrowing, or the number of a macro whose runs are meant. */
  readonly narrow: string | null;
  readonly macro?: number | null;
}

export interface Figure {
  readonly id: PaceFigure;
  readonly title: string;
  /** What it comes to, in a sentence. */
  readonly says: string;
  readonly head: readonly string[];
  readonly points: readonly Point[];
}

export const WEEKDAYS = ["Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday"];
/** The layers of a backlog, the youngest first. */
export const LAYERS = ["of that day", "1 to 6 days", "7 to 29 days", "30 to 89 days", "90 days and more"];

const day = (text: string): number => readDay(text.slice(0, 10))!;
const sum = (numbers: readonly number[]): number => numbers.reduce((all, one) => all + one, 0);
const round = (n: number): string =>
  n === 0 ? "0" : n < 9.95 ? String(Number(n.toFixed(1))) : countText(Math.round(n));

const inPlace = (pace: PaceShape): string => writeEquals("folder", pace.place.name);

function waitedText(total: number, old: number, day: string): string {
  if (total === 0) return `Nothing waited on ${shortDay(day)}.`;
  return `${plural(total, "message")} on ${shortDay(day)}, ${countText(old)} of them for a week and more.`;
}

function flowText(came: number, gone: number): string {
  if (came === 0 && gone === 0) return "Nothing came, and nothing went.";
  const more = came - gone;
  const left = more > 0 ? `${countText(more)} more to do` : `${countText(-more)} fewer to do`;
  return `${countText(came)} came, ${countText(gone)} went: ${more === 0 ? "as many" : left}.`;
}

export function backlogFigure(pace: PaceShape): Figure {
  const last = pace.backlog.at(-1);
  const old = last ? sum(last.layers.slice(2)) : 0;
  return {
    id: "backlog",
    title: "What waited",
    says: last ? waitedText(last.total, old, last.day) : "Nothing is known of these days.",
    head: ["end of", "all", ...LAYERS],
    points: pace.backlog.map(({ day: of, total, layers }) => ({
      key: of,
      name: stepText(of, "day"),
      values: [total, ...layers].map(countText),
      // What waited then and has not been decided since.
      narrow: `${inPlace(pace)} & date<=${of}`,
    })),
  };
}

export function flowFigure(pace: PaceShape): Figure {
  const [came, gone] = [sum(pace.flow.map((one) => one.came)), sum(pace.flow.map((one) => one.decided + one.filed))];
  return {
    id: "flow",
    title: "Came and went",
    says: flowText(came, gone),
    head: [pace.by, "came", "decided by you", "by rules and servers"],
    points: pace.flow.map(({ at, came: n, decided, filed }) => ({
      key: at,
      name: stepText(at, pace.by),
      values: [n, decided, filed].map(countText),
      narrow: datesOf({ from: day(at), to: day(at) + (pace.by === "week" ? 6 : 0) }),
    })),
  };
}

/** By weekday; the chart has the hours too. */
export function weekFigure({ week, from, to }: PaceShape): Figure {
  const hours = week.decided[0]!.map((_, hour) => sum(week.decided.map((one) => one[hour]!)));
  const best = hours.indexOf(Math.max(...hours));
  return {
    id: "week",
    title: "A usual week",
    says:
      hours[best]! > 0 ? `Most is decided from ${best} to ${best + 1} o'clock.` : "Nothing was decided in this time.",
    head: ["day", "come", "decided", "most come at"],
    points: WEEKDAYS.map((name, i) => {
      const most = Math.max(...week.came[i]!);
      return {
        key: name,
        name,
        values: [
          round(sum(week.came[i]!)),
          round(sum(week.decided[i]!)),
          most === 0 ? "–" : `${week.came[i]!.indexOf(most)}:00`,
        ],
        narrow: datesOf({ from: day(from), to: day(to) }),
      };
    }),
  };
}

export function sendersFigure(rows: readonly PaceSourceShape[], pace: PaceShape): Figure {
  const never = rows.filter(({ came, unread }) => came >= 3 && came === unread).length;
  return {
    id: "senders",
    title: "Who fills it, and how long theirs waits",
    says:
      rows.length === 0
        ? "Nothing came in this time."
        : `${rows[0]!.name} sent most.${never > 0 ? ` Of ${plural(never, "sender")} nothing was read.` : ""}`,
    head: ["sender or list", "came", "decided", "waiting", "unread", "half within", "nine of ten within"],
    points: rows.map(({ source, name, came, decided, open, unread, waits, narrow }) => ({
      key: source,
      name,
      values: [...[came, decided, open, unread].map(countText), lengthText(waits.median), lengthText(waits.most)],
      narrow: open > 0 ? `${inPlace(pace)} & ${narrow}` : narrow,
    })),
  };
}

export function macrosFigure(rows: readonly PaceMacroShape[]): Figure {
  const seconds = sum(rows.map((one) => one.seconds));
  const keys = sum(rows.map((one) => one.keys));
  return {
    id: "macros",
    title: "Macros, and what they save",
    says:
      rows.length === 0
        ? "No macro was run in this time."
        : `About ${savedText(seconds)} of handwork saved, and ${countText(keys)} keys and presses.`,
    head: ["macro", "runs", "messages", "by key", "by swipe", "keys saved", "time saved"],
    points: rows.map(({ macro, name, runs, messages, byKey, bySwipe, keys: some, seconds: s }) => ({
      key: `${macro} ${name}`,
      name,
      values: [...[runs, messages, byKey, bySwipe, some].map(countText), savedText(s)],
      narrow: null,
      macro,
    })),
  };
}
