import type { ReactNode } from "react";
import type { PaceReviewShape } from "@/core/api";
import { dayText, readDay } from "@/core/pace";
import { countText, plural } from "../parts/words";
import { useReview } from "./use-pace";
import { lengthText, savedText, shortDay } from "./words";

const BUTTON = "rounded-sm border border-edge bg-sheet px-2 text-xs leading-5 max-md:leading-7";

interface Line {
  readonly text: string;
  readonly narrow: string | null;
}

function Lines({
  title,
  lines,
  none,
  onOpen,
}: {
  readonly title: string;
  readonly lines: readonly Line[];
  readonly none: string;
  readonly onOpen: (narrow: string) => void;
}) {
  return (
    <div className="min-w-0">
      <h3 className="text-xs font-semibold text-ink-2">{title}</h3>
      {lines.length === 0 && <p className="text-[13px]">{none}</p>}
      <ul className="text-[13px]">
        {lines.map(({ text, narrow }) => (
          <li key={text} className="break-words">
            {narrow === null ? (
              text
            ) : (
              <button type="button" onClick={() => onOpen(narrow)} className="text-left underline max-md:py-1">
                {text}
              </button>
            )}
          </li>
        ))}
      </ul>
    </div>
  );
}

const against = (now: number, before: number): string =>
  before === now ? "as in the week before" : `${countText(before)} in the week before`;

/** The same as words, for a message to oneself. */
export function reviewText(review: PaceReviewShape): string {
  const list = (title: string, lines: readonly string[]) =>
    lines.length === 0 ? [] : ["", title, ...lines.map((line) => `– ${line}`)];
  return [
    `The week of ${shortDay(review.week)}: ${countText(review.came)} came, ${countText(review.decided + review.filed)} went, ${countText(review.open)} wait${review.oldest === null ? "" : `, the oldest for ${lengthText(review.oldest)}`}.`,
    `Macros saved about ${savedText(review.saved.seconds)}.`,
    ...list(
      "Left lying",
      neglectedLines(review).map(({ text }) => text),
    ),
    ...list(
      "Never read",
      unreadLines(review).map(({ text }) => text),
    ),
    ...list(
      "Could go by themselves",
      ideaLines(review).map(({ text }) => text),
    ),
  ].join("\n");
}

const neglectedLines = ({ neglected }: PaceReviewShape): Line[] =>
  neglected.map(({ name, narrow, open, days }) => ({
    text: `${name}: ${countText(open)}, the oldest for ${plural(days, "day")}`,
    narrow,
  }));
const unreadLines = ({ unread }: PaceReviewShape): Line[] =>
  unread.map(({ name, narrow, count }) => ({ text: `${name}: ${countText(count)} in four weeks`, narrow }));
/** All of them stand on the screen of rules. */
const MOST_IDEAS = 6;
const ideaLines = ({ rules, macros }: PaceReviewShape): Line[] => [
  ...rules.slice(0, MOST_IDEAS).map(({ narrow, folder, messages }) => ({
    text: `A rule: ${narrow} to ${folder}, as you did with ${countText(messages)}`,
    narrow,
  })),
  ...macros.map(({ name, times }) => ({
    text: `A macro: ${name}, done ${countText(times)} times in a row`,
    narrow: null,
  })),
];

interface ReviewProps {
  /** A day of the week; null for the one that is over. */
  readonly week: string | null;
  readonly onWeek: (week: string) => void;
  readonly onOpen: (narrow: string) => void;
  readonly onWrite: (subject: string, text: string) => void;
}

/** A week looked back on: what came, what was done, what was left lying, what would save work. */
export function Review({ week, onWeek, onOpen, onWrite }: ReviewProps) {
  const { data, error } = useReview(week);
  const turn = (by: number) => data && onWeek(dayText(readDay(data.week)! + 7 * by));
  let inside: ReactNode = <p role="status">Looking back…</p>;
  if (error) inside = <p role="alert">{error.message}</p>;
  else if (data)
    inside = (
      <>
        <p className="text-[13px]">
          {countText(data.came)} came ({against(data.came, data.before.came)}), {countText(data.decided)} decided by you
          ({against(data.decided, data.before.decided)}), {countText(data.filed)} by rules and servers.{" "}
          {plural(data.open, "message")} {data.open === 1 ? "waits" : "wait"} now
          {data.oldest === null ? "" : `, the oldest for ${lengthText(data.oldest)}`}. Macros saved about{" "}
          {savedText(data.saved.seconds)}.
        </p>
        <div className="grid gap-x-6 gap-y-2 md:grid-cols-3">
          <Lines
            title="Left lying: people you write to"
            lines={neglectedLines(data)}
            none="Nobody waits for more than a week."
            onOpen={onOpen}
          />
          <Lines
            title="Never read: could be left"
            lines={unreadLines(data)}
            none="Something of everybody was read."
            onOpen={onOpen}
          />
          <Lines
            title="Could go by itself"
            lines={ideaLines(data)}
            none="Nothing always goes the same way."
            onOpen={onOpen}
          />
        </div>
      </>
    );
  return (
    <section aria-labelledby="review" data-figure="review" className="flex flex-col gap-1.5 px-3 py-2">
      <div className="flex flex-wrap items-baseline gap-2">
        <h2 id="review" className="font-bold">
          {data ? `The week of ${shortDay(data.week)}` : "A week looked back on"}
        </h2>
        <button type="button" onClick={() => turn(-1)} className={BUTTON}>
          The week before
        </button>
        <button type="button" onClick={() => turn(1)} className={BUTTON}>
          The week after
        </button>
        <button
          type="button"
          disabled={!data}
          onClick={() => data && onWrite(`The week of ${shortDay(data.week)}`, reviewText(data))}
          className={BUTTON}
        >
          Write it to myself
        </button>
      </div>
      {inside}
    </section>
  );
}
