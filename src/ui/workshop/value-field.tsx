"use client";
import {
  isAnswered,
  isAsked,
  isCaptured,
  isGuessed,
  isTaken,
  PATTERN_FIELDS,
  TAKEN,
  type Asked,
  type Value,
} from "@/core/macro";
import { useRef, useState } from "react";
import { useView } from "../state/store";
import { GuessField } from "./guess-field";
import { FIELD, NameField } from "./name-field";
import { TextField } from "./text-field";

type Kind = Asked["ask"];

interface Props {
  readonly label: string;
  readonly kind: Kind;
  readonly value: Value | undefined;
  /** undefined leaves the parameter out. */
  readonly onChange: (value: Value | undefined) => void;
  /** What it is where it may be left out: "nothing", or in words. */
  readonly optional?: string | undefined;
  /** Names of ask steps whose answers may be used. */
  readonly names: readonly string[];
  /** Whether what it always is to be is chosen at once, in a step that was just added. */
  readonly begins?: boolean;
}

type Source = "none" | "fixed" | "ask" | "ask each" | "guess" | "pattern" | `take ${string}` | `answer ${string}`;

function sourceOf(value: Value | undefined): Source {
  if (value === undefined) return "none";
  if (typeof value === "string") return "fixed";
  if (isAsked(value)) return value.each ? "ask each" : "ask";
  if (isGuessed(value)) return "guess";
  if (isAnswered(value)) return `answer ${value.answer}`;
  return isTaken(value) ? `take ${value.take}` : "pattern";
}

/** A new value from that source; one that is fixed is still to be chosen. */
function valueFrom(source: string, kind: Kind): Value | undefined {
  if (source === "none") return undefined;
  if (source === "ask") return { ask: kind };
  if (source === "ask each") return { ask: kind, each: true };
  if (source === "guess") return { guess: "folder" };
  if (source.startsWith("answer ")) return { answer: source.slice(7) };
  if (source.startsWith("take ")) return { take: source.slice(5) as (typeof TAKEN)[number] };
  return { pattern: "\\d+", in: "subject" };
}

/** A value of a step, and where it comes from: written here, asked, guessed, or taken from the message. */
export function ValueField({ label, kind, value, onChange, optional, names, begins = false }: Props) {
  const [choosing, setChoosing] = useState(begins);
  const source = choosing ? "fixed" : sourceOf(value);
  const box = useRef<HTMLDivElement>(null);
  const stop = () => {
    setChoosing(false);
    // What was chosen stands in a field of its own from now on: the focus goes on from there.
    setTimeout(() => [...(box.current?.querySelectorAll<HTMLElement>("[data-field]") ?? [])].at(-1)?.focus(), 0);
  };
  const computes = kind !== "marker";
  return (
    <div ref={box} className="grid grid-cols-[52px_116px_minmax(0,1fr)] items-start gap-1.5">
      <span className="pt-1.5 text-xs text-ink-2">{label}</span>
      <select
        aria-label={`${label}, where it comes from`}
        value={source}
        data-field
        onChange={(event) => {
          // Nothing is made up: what it always is to be is chosen first.
          setChoosing(event.target.value === "fixed");
          if (event.target.value !== "fixed") onChange(valueFrom(event.target.value, kind));
        }}
        className={FIELD}
      >
        {optional !== undefined && <option value="none">{optional}</option>}
        <option value="fixed">always</option>
        <option value="ask">asked once</option>
        <option value="ask each">asked for each</option>
        {kind === "folder" && <option value="guess">as guessed</option>}
        {names.map((name) => (
          <option key={name} value={`answer ${name}`}>
            answer “{name}”
          </option>
        ))}
        {source.startsWith("answer ") && !names.includes(source.slice(7)) && (
          <option value={source}>{source} (missing)</option>
        )}
        {computes && (
          <optgroup label="from the message">
            {TAKEN.map((take) => (
              <option key={take} value={`take ${take}`}>
                {take}
              </option>
            ))}
            <option value="pattern">a pattern</option>
          </optgroup>
        )}
      </select>
      {choosing ? (
        <Fixed
          {...{ label, kind }}
          value={typeof value === "string" ? value : ""}
          onChange={(text) => {
            stop();
            if (text !== undefined) onChange(text);
          }}
          onLeave={stop}
        />
      ) : (
        <Rest key={source} {...{ label, kind, value, onChange }} />
      )}
    </div>
  );
}

interface FixedProps {
  readonly label: string;
  readonly kind: Kind;
  readonly value: string;
  readonly onChange: (value: string | undefined) => void;
  /** For one that is just being chosen: what leaving it without a choice does. */
  readonly onLeave?: () => void;
}

/** A value that is always the same. */
function Fixed({ label, kind, value, onChange, onLeave }: FixedProps) {
  const markers = useView((v) => v.directory.markers);
  if (kind === "folder" || kind === "label")
    return (
      <NameField
        label={label}
        kind={kind}
        value={value}
        onChange={onChange}
        {...(onLeave ? { begins: onLeave } : {})}
      />
    );
  if (kind === "marker")
    return (
      <select aria-label={label} data-field value={value} onChange={(e) => onChange(e.target.value)} className={FIELD}>
        {value === "" && <option value="">choose…</option>}
        {markers.map((m) => (
          <option key={m.id} value={m.letter}>
            {m.letter}, {m.meaning}
          </option>
        ))}
        {value !== "" && !markers.some((m) => m.letter === value) && (
          <option value={value}>{value} (does not exist)</option>
        )}
      </select>
    );
  return (
    <TextField
      label={label}
      kind={kind === "date" ? "date" : "text"}
      value={value}
      placeholder={kind === "date" ? "tomorrow 9, +3d, next fri…" : "write it here"}
      begins={onLeave !== undefined}
      onChange={(text) => onChange(text === "" ? undefined : text)}
    />
  );
}

/** What a source needs beside itself. */
function Rest({ label, kind, value, onChange }: Omit<Props, "names" | "optional" | "begins">) {
  if (value === undefined || isAnswered(value)) return <span />;
  if (isGuessed(value)) return <GuessField {...{ label, value, onChange }} />;
  if (typeof value === "string") return <Fixed {...{ label, kind, value, onChange }} />;
  if (isAsked(value))
    return (
      <TextField
        label={`${label}, question`}
        kind="text"
        value={value.prompt ?? ""}
        placeholder={`which ${kind}?`}
        onChange={(text) => {
          const { prompt: _, ...rest } = value;
          onChange(text === "" ? rest : { ...rest, prompt: text.slice(0, 80) });
        }}
      />
    );
  const otherwise = (
    <TextField
      label={`${label}, where the message holds none`}
      kind="text"
      value={value.else ?? ""}
      placeholder="else skip the message, or use…"
      onChange={(text) => {
        const { else: _, ...rest } = value;
        onChange(text === "" ? rest : { ...rest, else: text });
      }}
    />
  );
  if (!isCaptured(value)) return otherwise;
  return (
    <span className="flex flex-col gap-1.5">
      <span className="flex gap-1.5">
        <TextField
          label={`${label}, pattern`}
          kind="text"
          value={value.pattern}
          onChange={(pattern) => pattern !== "" && onChange({ ...value, pattern })}
        />
        <select
          aria-label={`${label}, looked for in`}
          value={value.in}
          onChange={(e) => onChange({ ...value, in: e.target.value as (typeof PATTERN_FIELDS)[number] })}
          className={FIELD}
        >
          {PATTERN_FIELDS.map((field) => (
            <option key={field} value={field}>
              in {field}
            </option>
          ))}
        </select>
      </span>
      <TextField
        label={`${label}, named group`}
        kind="text"
        value={value.group ?? ""}
        placeholder="the whole match, or the group named…"
        onChange={(text) => {
          const { group: _, ...rest } = value;
          onChange(text === "" ? rest : { ...rest, group: text });
        }}
      />
      {otherwise}
    </span>
  );
}
