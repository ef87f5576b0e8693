"use client";
import { goesOf, type Step, type Value } from "@/core/macro";
import { useView } from "../state/store";
import { FIELD } from "./name-field";
import { TextField } from "./text-field";
import { ValueField } from "./value-field";

type LetterStep = Extract<Step, { do: "reply" | "reply all" | "forward" | "new message" }>;

interface Props {
  readonly step: LetterStep;
  readonly names: readonly string[];
  readonly onChange: (step: Step) => void;
}

const GOES = { outbox: "goes by itself", draft: "opens as a draft", owed: "is put in Owed" } as const;

/** What a step says of its letter: its template, where it goes, when, and where its copy is kept. */
export function LetterParams({ step, names, onChange }: Props) {
  const templates = useView((v) => v.home?.templates) ?? [];
  const put = (change: Record<string, unknown>) => {
    const next = Object.entries({ ...step, ...change }).filter(([, value]) => value !== undefined);
    onChange(Object.fromEntries(next) as unknown as Step);
  };
  const affixes = step.do === "new message" ? [] : (["prefix", "suffix"] as const);
  return (
    <>
      <div className="flex flex-wrap gap-1.5">
        <select
          aria-label="Template"
          data-field
          value={step.template ?? ""}
          onChange={({ target }) => put({ template: target.value === "" ? undefined : target.value })}
          className={FIELD}
        >
          <option value="">without a template</option>
          {templates.map(({ id, name }) => (
            <option key={id} value={name}>
              {name}
            </option>
          ))}
          {step.template !== undefined && !templates.some(({ name }) => name === step.template) && (
            <option value={step.template}>{step.template} (does not exist)</option>
          )}
        </select>
        <select
          aria-label="Where the letter goes"
          data-field
          value={goesOf(step)}
          onChange={({ target }) => put({ goes: target.value })}
          className={FIELD}
        >
          {Object.entries(GOES).map(([goes, name]) => (
            <option key={goes} value={goes}>
              {name}
            </option>
          ))}
        </select>
      </div>
      <ValueField
        label="send"
        kind="date"
        optional="nothing"
        names={names}
        value={step.send}
        onChange={(send) => put({ send })}
      />
      <ValueField
        label="copy"
        kind="folder"
        optional="nothing"
        names={names}
        value={step.sent as Value | undefined}
        onChange={(sent) => put({ sent })}
      />
      {step.sent !== undefined && (
        <label className="flex items-center gap-1.5 text-xs">
          <input
            type="checkbox"
            checked={step.sentToo === true}
            onChange={({ target }) => put({ sentToo: target.checked ? true : undefined })}
          />
          and one in Sent
        </label>
      )}
      {affixes.length > 0 && (
        <div className="flex gap-1.5">
          {affixes.map((affix) => (
            <TextField
              key={affix}
              label={`subject, ${affix}`}
              kind="text"
              value={
                (("prefix" in step || "suffix" in step
                  ? (step as Record<string, unknown>)[affix]
                  : undefined) as string) ?? ""
              }
              placeholder={affix === "prefix" ? "before the subject" : "after the subject"}
              onChange={(text) => put({ [affix]: text === "" ? undefined : text.slice(0, 80) })}
            />
          ))}
        </div>
      )}
    </>
  );
}
