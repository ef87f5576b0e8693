import type { RuleShape } from "@/core/api";
import { useLeftText } from "../parts/left-text";
import { changeRule } from "./edits";

const FIELD = "rounded-sm border border-edge bg-sheet px-1.5 py-0.5 text-xs";

interface FieldProps {
  readonly label: string;
  readonly value: number | null;
  readonly most: number;
  readonly least: number;
  readonly onDone: (value: number | null) => void;
}

/** A number, or none. What cannot be one is not stored, and what was there comes back. */
function NumberField({ label, value, most, least, onDone }: FieldProps) {
  const { text, type, rest } = useLeftText(String(value ?? ""));
  const done = () => {
    const next = text.trim() === "" ? null : Number(text);
    const can = next === null || (Number.isInteger(next) && next >= least && next <= most);
    rest(can ? text : String(value ?? ""));
    if (can && next !== value) onDone(next);
  };
  return (
    <input
      aria-label={label}
      inputMode="numeric"
      value={text}
      placeholder="–"
      onChange={({ target }) => type(target.value)}
      onBlur={done}
      onKeyDown={({ key }) => key === "Enter" && done()}
      className={`${FIELD} num w-12 text-right`}
    />
  );
}

/** What a rule on sending asks of whom a letter goes to, and what it does beside its macro. */
export function SendingParts({ rule, name }: { readonly rule: RuleShape; readonly name: string }) {
  const change = (patch: Partial<RuleShape>) =>
    void changeRule(rule, patch as Parameters<typeof changeRule>[1], `Changed ${name.toLowerCase()}`);
  const { text: look, type: typeLook, rest } = useLeftText(rule.look ?? "");
  const lookDone = () => {
    rest();
    const next = look.trim() === "" ? null : look.trim();
    if (next !== rule.look) change({ look: next });
  };
  return (
    <span className="flex flex-wrap items-center gap-x-4 gap-y-1 text-xs md:col-span-3 md:col-start-2">
      <label className="flex items-center gap-1.5">
        to more than
        <NumberField
          label={`${name}: to more people than`}
          value={rule.moreThan}
          least={0}
          most={1000}
          onDone={(moreThan) => change({ moreThan })}
        />
        people
      </label>
      <label className="flex items-center gap-1.5">
        <input type="checkbox" checked={rule.outside} onChange={({ target }) => change({ outside: target.checked })} />
        to somebody outside
      </label>
      <label className="flex items-center gap-1.5">
        held for
        <NumberField
          label={`${name}: minutes it is held`}
          value={rule.holdMinutes}
          least={1}
          most={10_080}
          onDone={(holdMinutes) => change({ holdMinutes })}
        />
        minutes
      </label>
      <label className="flex min-w-0 flex-1 basis-64 items-center gap-1.5">
        ask me first
        <input
          aria-label={`${name}: what you are asked`}
          value={look}
          maxLength={200}
          placeholder="nothing is asked"
          onChange={({ target }) => typeLook(target.value)}
          onBlur={lookDone}
          onKeyDown={({ key }) => key === "Enter" && lookDone()}
          className={`${FIELD} min-w-0 flex-1`}
        />
      </label>
    </span>
  );
}
