"use client";
import { useState } from "react";
import { isAsked, type Asked, type Step, type Value } from "@/core/macro";
import { readWhen } from "@/core/when";
import { dateText } from "../parts/words";
import { Picker } from "../parts/picker";
import { write } from "../state/api";
import { refreshSettings } from "../state/load";
import { useView } from "../state/store";

const FIELD = "rounded-sm border border-edge bg-sheet px-2 py-1 text-[13px]";

interface ValueProps {
  readonly label: string;
  readonly kind: Asked["ask"];
  readonly value: Value | undefined;
  readonly onChange: (value: Value | undefined) => void;
  readonly optional?: boolean;
}

/** A value of a step: written here, or asked when the macro runs. */
function ValueField({ label, kind, value, onChange, optional }: ValueProps) {
  const asked = value !== undefined && isAsked(value);
  return (
    <div className="flex flex-wrap items-center gap-2">
      <span className="w-14 text-xs text-ink-2">{label}</span>
      {asked ? (
        <input
          aria-label={`${label}, question`}
          defaultValue={value.prompt ?? ""}
          placeholder={`asks for a ${kind}`}
          onBlur={(event) =>
            onChange({
              ask: kind,
              ...(event.target.value.trim() ? { prompt: event.target.value.trim().slice(0, 80) } : {}),
            })
          }
          className={`${FIELD} min-w-40 flex-1`}
        />
      ) : kind === "folder" || kind === "label" ? (
        <NameField label={label} kind={kind} value={value ?? ""} onChange={onChange} />
      ) : (
        <TextField
          label={label}
          kind={kind}
          value={value ?? ""}
          onChange={(text) => onChange(text === "" && optional ? undefined : text)}
        />
      )}
      <label className="flex items-center gap-1 text-xs">
        <input
          type="checkbox"
          checked={asked}
          onChange={(event) =>
            onChange(
              event.target.checked
                ? { ask: kind }
                : optional
                  ? undefined
                  : kind === "date"
                    ? "tomorrow 9"
                    : kind === "text"
                      ? "…"
                      : "Inbox",
            )
          }
        />
        ask
      </label>
    </div>
  );
}

function TextField({
  label,
  kind,
  value,
  onChange,
}: {
  label: string;
  kind: "date" | "text";
  value: string;
  onChange: (text: string) => void;
}) {
  const zone = useView((v) => v.home?.person.zone ?? "UTC");
  const [text, setText] = useState(value);
  const when = kind === "date" && text.trim() !== "" ? readWhen(text, new Date(), zone) : null;
  return (
    <span className="min-w-40 flex-1">
      <input
        aria-label={label}
        aria-invalid={when !== null && !when.ok}
        value={text}
        onChange={(event) => setText(event.target.value)}
        onBlur={() => text.trim() !== value && (when === null || when.ok) && onChange(text.trim())}
        onKeyDown={(event) => event.key === "Enter" && event.currentTarget.blur()}
        className={`${FIELD} w-full`}
      />
      {when && (
        <span className={`block text-xs ${when.ok ? "text-ink-3" : "text-brick"}`}>
          {when.ok ? `now: ${dateText(when.at.toISOString(), zone, new Date())}` : when.problem}
        </span>
      )}
    </span>
  );
}

/** A folder or label, chosen by any part of its name or made on the spot. */
function NameField({
  label,
  kind,
  value,
  onChange,
}: {
  label: string;
  kind: "folder" | "label";
  value: string;
  onChange: (name: string) => void;
}) {
  const directory = useView((v) => v.directory);
  const [open, setOpen] = useState(false);
  const [problem, setProblem] = useState<string | null>(null);
  const names = kind === "folder" ? directory.folders.map((f) => f.path) : directory.labels.map((l) => l.name);
  const choose = (name: string) => {
    setOpen(false);
    onChange(name);
  };
  const create = async (name: string) => {
    try {
      await write("POST", kind === "folder" ? "/folders" : "/labels", kind === "folder" ? { path: name } : { name });
      await refreshSettings();
      choose(name);
    } catch (error) {
      setProblem(error instanceof Error ? error.message : "It could not be made.");
    }
  };
  const missing = value !== "" && !names.some((name) => name.toLowerCase() === value.toLowerCase());
  return (
    <>
      <button
        type="button"
        aria-label={`${label}: ${value || "choose"}`}
        onClick={() => setOpen(true)}
        className={`${FIELD} min-w-40 flex-1 truncate text-left ${missing ? "border-brick" : ""}`}
      >
        {value || "choose…"}
        {missing && <span className="text-brick"> (does not exist)</span>}
      </button>
      {open && (
        <Picker
          title={`Which ${kind}?`}
          choices={names.map((name) => ({ id: name, name }))}
          onChoose={choose}
          onClose={() => setOpen(false)}
          onCreate={create}
          createText={`Make the ${kind}`}
          problem={problem}
        />
      )}
    </>
  );
}

interface Props {
  readonly step: Step;
  readonly onChange: (step: Step) => void;
}

/** The parameters of a step; nothing for kinds that have none. */
export function Params({ step, onChange }: Props) {
  const markers = useView((v) => v.directory.markers);
  switch (step.do) {
    case "move":
    case "copy":
      return (
        <ValueField
          label="to"
          kind="folder"
          value={step.to}
          onChange={(to) => onChange({ ...step, to: (to ?? "Inbox") as typeof step.to })}
        />
      );
    case "note":
      return (
        <ValueField
          label="text"
          kind="text"
          value={step.text}
          onChange={(text) => onChange({ ...step, text: (text || "…") as typeof step.text })}
        />
      );
    case "flag":
      return (
        <div className="flex flex-col gap-1.5">
          <ValueField
            label="from"
            kind="date"
            optional
            value={step.start}
            onChange={(start) => onChange({ ...step, start: start as typeof step.start })}
          />
          <ValueField
            label="due"
            kind="date"
            optional
            value={step.due}
            onChange={(due) => onChange({ ...step, due: due as typeof step.due })}
          />
          <ValueField
            label="note"
            kind="text"
            optional
            value={step.note}
            onChange={(note) => onChange({ ...step, note: note as typeof step.note })}
          />
        </div>
      );
    case "label": {
      const verb = step.add !== undefined ? "add" : step.remove !== undefined ? "remove" : "toggle";
      const value = step[verb] as Value;
      const make = (v: string, name: Value) => onChange({ do: "label", [v]: name } as Step);
      return (
        <div className="flex flex-wrap items-start gap-2">
          <select
            aria-label="What to do with the label"
            value={verb}
            onChange={(event) => make(event.target.value, value)}
            className={FIELD}
          >
            <option value="add">add</option>
            <option value="remove">remove</option>
            <option value="toggle">toggle</option>
          </select>
          <ValueField label="label" kind="label" value={value} onChange={(name) => make(verb, name ?? "")} />
        </div>
      );
    }
    case "marker": {
      const value = step.set ?? (step.next ? "next" : "clear");
      const make = (v: string): Step =>
        v === "next"
          ? { do: "marker", next: true }
          : v === "clear"
            ? { do: "marker", clear: true }
            : { do: "marker", set: v };
      return (
        <select
          aria-label="Marker"
          value={value}
          onChange={(event) => onChange(make(event.target.value))}
          className={FIELD}
        >
          {markers.map((marker) => (
            <option key={marker.id} value={marker.letter}>
              {marker.letter}, {marker.meaning}
            </option>
          ))}
          {step.set !== undefined && !markers.some((m) => m.letter === step.set) && (
            <option value={step.set}>{step.set} (does not exist)</option>
          )}
          <option value="next">next</option>
          <option value="clear">clear</option>
        </select>
      );
    }
    default:
      return null;
  }
}
