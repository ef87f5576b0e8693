"use client";
import { ASK_KINDS, type Step, type Value } from "@/core/macro";
import { LetterParams } from "./letter-params";
import { FIELD, NameField } from "./name-field";
import { TextField } from "./text-field";
import { BlockParams, TaskParams } from "./time-params";
import { ValueField } from "./value-field";

interface Props {
  readonly step: Step;
  /** Names of ask steps that come before. */
  readonly names: readonly string[];
  readonly onChange: (step: Step) => void;
  /** Whether it was just added: then a folder or label is chosen first. */
  readonly begins?: boolean;
}

const VALUES: Partial<
  Record<Step["do"], readonly (readonly [param: string, kind: "folder" | "date" | "text", optional?: string])[]>
> = {
  move: [["to", "folder"]],
  copy: [["to", "folder"]],
  note: [["text", "text"]],
  defer: [["until", "date"]],
  pin: [["until", "date", "nothing"]],
  flag: [
    ["start", "date", "nothing"],
    ["due", "date", "nothing"],
    ["note", "text", "nothing"],
  ],
  "make task": [
    ["title", "text", "subject"],
    ["due", "date", "nothing"],
  ],
  forward: [["to", "text"]],
  "new message": [["to", "text"]],
  "await an answer": [["for", "date"]],
  "block time": [
    ["title", "text", "subject"],
    ["at", "date"],
  ],
  "make event": [
    ["title", "text", "subject"],
    ["at", "date", "as it says"],
  ],
};

/** What comes again begins some day: without a date it does not. */
function onceWithoutDue(step: Step): Step {
  if (step.do !== "make task" || step.due !== undefined) return step;
  const { repeat: _, ...once } = step;
  return once;
}

/** The parameters of a step; nothing for kinds that have none. */
export function Params({ step, names, onChange, begins = false }: Props) {
  const values = VALUES[step.do] ?? [];
  return (
    <div className="flex flex-col gap-1.5">
      {values.map(([param, kind, optional]) => (
        <ValueField
          key={param}
          label={param}
          kind={kind}
          optional={optional}
          names={names}
          begins={begins && kind === "folder"}
          value={(step as Record<string, unknown>)[param] as Value | undefined}
          onChange={(value) => {
            const { [param]: _, ...rest } = step as Record<string, unknown>;
            // What may not be left out stays as it was when its text is emptied.
            if (value !== undefined) onChange({ ...rest, [param]: value } as Step);
            else if (optional !== undefined) onChange(onceWithoutDue(rest as Step));
          }}
        />
      ))}
      <Others step={step} names={names} onChange={onChange} begins={begins} />
    </div>
  );
}

/** Parameters that are no values. */
function Others({ step, names, onChange, begins = false }: Props) {
  switch (step.do) {
    case "label":
      return <LabelParams step={step} names={names} onChange={onChange} begins={begins} />;
    case "marker":
      return <MarkerParams step={step} names={names} onChange={onChange} />;
    case "make task":
      return <TaskParams step={step} onChange={onChange} />;
    case "block time":
    case "make event":
      return <BlockParams step={step} onChange={onChange} />;
    case "only when":
    case "if":
      return <Condition step={step} names={names} onChange={onChange} />;
    case "ask":
      return <AskParams step={step} onChange={onChange} />;
    case "run macro":
      return (
        <NameField
          label="macro"
          kind="macro"
          value={step.macro}
          onChange={(macro) => onChange({ ...step, macro })}
          {...(begins ? { begins: () => undefined } : {})}
        />
      );
    case "add sender to rule":
      return (
        <TextField
          label="rule"
          kind="text"
          value={step.rule}
          required
          onChange={(rule) => onChange({ ...step, rule })}
        />
      );
    case "reply":
    case "reply all":
    case "forward":
    case "new message":
      return <LetterParams step={step} names={names} onChange={onChange} />;
    default:
      return null;
  }
}

function LabelParams({ step, names, onChange, begins = false }: Props & { step: Extract<Step, { do: "label" }> }) {
  const verb = step.add !== undefined ? "add" : step.remove !== undefined ? "remove" : "toggle";
  const make = (v: string, value: Value) => onChange({ do: "label", [v]: value } as Step);
  return (
    <>
      <select
        aria-label="What to do with the label"
        data-field
        value={verb}
        onChange={(event) => make(event.target.value, step[verb] as Value)}
        className={`${FIELD} self-start`}
      >
        <option value="add">add</option>
        <option value="remove">remove</option>
        <option value="toggle">toggle</option>
      </select>
      <ValueField
        label="label"
        kind="label"
        names={names}
        value={step[verb]}
        begins={begins}
        onChange={(value) => value !== undefined && make(verb, value)}
      />
    </>
  );
}

function MarkerParams({ step, names, onChange }: Props & { step: Extract<Step, { do: "marker" }> }) {
  const how = step.set !== undefined ? "set" : step.next ? "next" : "clear";
  return (
    <>
      <select
        aria-label="What to do with the marker"
        data-field
        value={how}
        onChange={(event) =>
          onChange(
            event.target.value === "set"
              ? { do: "marker", set: { ask: "marker" } }
              : event.target.value === "next"
                ? { do: "marker", next: true }
                : { do: "marker", clear: true },
          )
        }
        className={`${FIELD} self-start`}
      >
        <option value="set">set</option>
        <option value="next">next</option>
        <option value="clear">clear</option>
      </select>
      {step.set !== undefined && (
        <ValueField
          label="marker"
          kind="marker"
          names={names}
          value={step.set}
          onChange={(set) => set !== undefined && onChange({ do: "marker", set: set as typeof step.set })}
        />
      )}
    </>
  );
}

function Condition({ step, names, onChange }: Props & { step: Extract<Step, { do: "only when" | "if" }> }) {
  const source = step.answer === undefined ? "narrow" : `answer ${step.answer}`;
  const put = (condition: { narrow: string } | { answer: string }) => {
    const { narrow: _, answer: __, ...rest } = step;
    onChange({ ...rest, ...condition } as Step);
  };
  return (
    <div className="flex items-start gap-1.5">
      <select
        aria-label="What the condition looks at"
        data-field
        value={source}
        onChange={(event) =>
          put(event.target.value === "narrow" ? { narrow: "unread" } : { answer: event.target.value.slice(7) })
        }
        className={FIELD}
      >
        <option value="narrow">the message is</option>
        {[...new Set([...names, ...(step.answer === undefined ? [] : [step.answer])])].map((name) => (
          <option key={name} value={`answer ${name}`}>
            “{name}” is yes
          </option>
        ))}
      </select>
      {step.narrow !== undefined && (
        <TextField
          label="condition"
          kind="narrow"
          value={step.narrow}
          required
          onChange={(narrow) => put({ narrow })}
        />
      )}
    </div>
  );
}

function AskParams({ step, onChange }: { step: Extract<Step, { do: "ask" }>; onChange: (step: Step) => void }) {
  return (
    <>
      <div className="flex gap-1.5">
        <select
          aria-label="What is asked for"
          data-field
          value={step.kind}
          onChange={(event) => onChange({ ...step, kind: event.target.value as typeof step.kind })}
          className={FIELD}
        >
          {ASK_KINDS.map((kind) => (
            <option key={kind} value={kind}>
              {kind}
            </option>
          ))}
        </select>
        <TextField
          label="name of the answer"
          kind="text"
          value={step.name}
          required
          onChange={(name) => onChange({ ...step, name: name.slice(0, 40) })}
        />
      </div>
      <TextField
        label="question"
        kind="text"
        value={step.prompt ?? ""}
        placeholder="the question, as it is asked"
        onChange={(prompt) => {
          const { prompt: _, ...rest } = step;
          onChange(prompt === "" ? rest : { ...rest, prompt: prompt.slice(0, 80) });
        }}
      />
      <label className="flex items-center gap-1.5 text-xs">
        <input
          type="checkbox"
          checked={step.each === true}
          onChange={(event) => {
            const { each: _, ...rest } = step;
            onChange(event.target.checked ? { ...rest, each: true } : rest);
          }}
        />
        asked for every message
      </label>
    </>
  );
}
