"use client";
import { readNarrow, textOfIssue } from "@/core/narrow";
import { readWhen } from "@/core/when";
import { useLeftText } from "../parts/left-text";
import { dateText } from "../parts/words";
import { useView } from "../state/store";
import { goOn } from "./go-on";
import { FIELD } from "./name-field";

interface Props {
  readonly label: string;
  readonly kind: "date" | "text" | "narrow";
  readonly value: string;
  readonly placeholder?: string;
  /** Whether it has the focus from the start. */
  readonly begins?: boolean;
  /** Emptied, it goes back to what it was. */
  readonly required?: boolean;
  readonly onChange: (text: string) => void;
}

interface Said {
  readonly ok: boolean;
  readonly text: string;
}

/** Text of a step, stored when it is left or Enter is pressed; what it means is said as it is typed. */
export function TextField({ label, kind, value, placeholder, required = false, begins = false, onChange }: Props) {
  const zone = useView((v) => v.home?.person.zone ?? "UTC");
  const directory = useView((v) => v.directory);
  const { text, type, rest } = useLeftText(value);
  const say = (): Said | null => {
    if (text.trim() === "" || kind === "text") return null;
    if (kind === "date") {
      const when = readWhen(text, new Date(), zone);
      return when.ok
        ? { ok: true, text: `now: ${dateText(when.at.toISOString(), zone, new Date())}` }
        : { ok: false, text: when.problem };
    }
    const checked = readNarrow(text, { directory, now: new Date(), zone });
    return checked.ok ? null : { ok: false, text: checked.issues.map(textOfIssue).join(" ") };
  };
  const said = say();
  const store = () => {
    const isLacking = text.trim() === "" && required;
    rest(isLacking ? value : text);
    if (isLacking) return;
    if (text.trim() !== value && (said === null || said.ok)) onChange(text.trim());
  };
  return (
    <span className="min-w-32 flex-1">
      <input
        aria-label={label}
        aria-invalid={said !== null && !said.ok}
        value={text}
        autoFocus={begins}
        placeholder={placeholder}
        onChange={(event) => type(event.target.value)}
        onBlur={store}
        onKeyDown={(event) => {
          if (event.key !== "Enter") return;
          event.preventDefault();
          goOn(event.currentTarget);
        }}
        data-field
        className={`${FIELD} w-full ${kind === "narrow" ? "font-mono text-xs" : ""}`}
      />
      {said && <span className={`block text-xs ${said.ok ? "text-ink-3" : "text-brick"}`}>{said.text}</span>}
    </span>
  );
}
