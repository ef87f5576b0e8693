import { useEffect, useId, useMemo, useState } from "react";
import { complete, textOfIssue } from "@/core/narrow";
import { folderFor } from "@/core/place";
import { ofInbox, type RuleTime } from "@/core/rule";
import { countText, plural } from "../parts/words";
import { checkNarrow } from "../state/browse";
import { idsMatching } from "../state/decide";
import { useView } from "../state/store";
import { vocabulary } from "../state/vocabulary";
import { askForWords, waitsForWords } from "../state/words";
import { ofThose, type Whose } from "./of-list";

const MOST_OFFERED = 12;

/** How much of the mail there is a condition means, as it is typed; or what is wrong with it. */
export function Means({
  narrow,
  id,
  time = "arrival",
  whose = "everybody",
}: {
  readonly narrow: string;
  readonly id?: string;
  readonly time?: RuleTime;
  /** Of that mail, only what these wrote. */
  readonly whose?: Whose;
}) {
  const seq = useView((v) => v.home?.seq);
  const loading = useView((v) => v.loading);
  const inbox = useView((v) => folderFor(v.directory, "inbox")?.path ?? "Inbox");
  const [answered, setAnswered] = useState(0);
  const counts = useMemo(() => {
    // Counted anew only when the mailbox is another one: it takes a look at every message.
    void [seq, loading, answered];
    const here = time === "arrival" ? ofInbox(narrow, inbox) : `mine${narrow.trim() === "" ? "" : ` & (${narrow})`}`;
    const count = (which: string) => ofThose(idsMatching(which), whose).length;
    return [time === "arrival" ? count(narrow) : 0, count(here)] as const;
  }, [narrow, inbox, time, whose, seq, loading, answered]);
  const checked = checkNarrow(narrow);
  useEffect(() => {
    const now = checkNarrow(narrow);
    // Which messages hold a word, only the server knows.
    if (now.ok)
      askForWords(
        now.test,
        () => setAnswered((count) => count + 1),
        () => undefined,
      );
  }, [narrow]);
  if (!checked.ok)
    return (
      <span id={id} role="alert" className="text-brick">
        {checked.issues.map(textOfIssue).join(" ")}
      </span>
    );
  if (waitsForWords(checked.test))
    return (
      <span id={id} className="text-ink-2">
        Looking which messages it means…
      </span>
    );
  const [all, here] = counts;
  return (
    <span id={id} className="text-ink-2">
      {time === "arrival"
        ? `${plural(all, "message")} so far, ${countText(here)} in the inbox`
        : `${plural(here, "letter")} of yours so far`}
    </span>
  );
}

interface Props {
  readonly label: string;
  readonly value: string;
  /** It was left, or Enter was pressed: a condition that can be read. */
  readonly onDone: (narrow: string) => void;
  readonly onType?: (narrow: string) => void;
  readonly placeholder?: string;
  readonly className: string;
  /** Nothing is typed where there is none, and means no message. */
  readonly isOptional?: boolean;
  readonly time?: RuleTime;
  readonly whose?: Whose;
}

/** Where a condition is typed: completed, counted, and taken once it can be read. */
export function ConditionField({
  label,
  value,
  onDone,
  onType,
  placeholder,
  className,
  isOptional,
  time,
  whose,
}: Props) {
  const [text, setText] = useState(value);
  const [typing, setTyping] = useState(false);
  const [stored, setStored] = useState(value);
  /** What was handed on last: Enter and then leaving the field are one change. */
  const [given, setGiven] = useState(value);
  const list = useId();
  const said = useId();
  // What was changed elsewhere is shown, but not into what is being typed.
  if (stored !== value) {
    setStored(value);
    setGiven(value);
    if (!typing) setText(value);
  }
  const offers = typing
    ? complete(text, text.length, vocabulary)
        .slice(0, MOST_OFFERED)
        .map((offer) => text.slice(0, offer.span.from) + offer.text + text.slice(offer.span.to))
    : [];
  const done = () => {
    const next = text.trim();
    if (!checkNarrow(text).ok || next === value || next === given) return;
    setGiven(next);
    onDone(next);
  };
  return (
    <span className="grid min-w-0 content-start gap-0.5">
      <input
        aria-label={label}
        aria-describedby={said}
        aria-invalid={!checkNarrow(text).ok}
        list={list}
        value={text}
        maxLength={2000}
        autoComplete="off"
        spellCheck={false}
        placeholder={placeholder}
        onFocus={() => setTyping(true)}
        onBlur={() => {
          setTyping(false);
          done();
        }}
        onChange={({ target }) => {
          setText(target.value);
          onType?.(target.value);
        }}
        onKeyDown={(event) => {
          if (event.key === "Enter") done();
          else if (event.key === "Escape") setText(value);
        }}
        className={className}
      />
      <datalist id={list}>
        {offers.map((offer) => (
          <option key={offer} value={offer} />
        ))}
      </datalist>
      <span className="text-xs">
        {!(isOptional && text.trim() === "") && (
          <Means narrow={text} id={said} {...(time ? { time } : {})} {...(whose ? { whose } : {})} />
        )}
      </span>
    </span>
  );
}
