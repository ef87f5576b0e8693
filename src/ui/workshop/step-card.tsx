"use client";
import { useSortable } from "@dnd-kit/sortable";
import type { ReactNode } from "react";
import type { MacroShape } from "@/core/api";
import { stepFacts, type Finding, type Step } from "@/core/macro";
import { TONE } from "../parts/tone";
import { FindingLine } from "./finding";
import { Params } from "./params";

interface Props {
  readonly macro: MacroShape;
  readonly step: Step;
  readonly path: string;
  readonly index: number;
  readonly count: number;
  readonly names: readonly string[];
  readonly findings: readonly Finding[];
  /** Whether it was just added. */
  readonly isNew: boolean;
  readonly onChange: (step: Step) => void;
  readonly onRemove: () => void;
  readonly onMove: (by: 1 | -1) => void;
  /** Its branches. */
  readonly children: ReactNode;
}

/** One step with its parameters and what the check says of it. Alt and an arrow moves it, Delete takes it out. */
export function StepCard(props: Props) {
  const { macro, step, path, index, count, names, findings, isNew, onChange, onRemove, onMove, children } = props;
  const { attributes, listeners, setNodeRef, transform, isDragging } = useSortable({ id: `step ${index}` });
  const facts = stepFacts(step.do);
  return (
    <li
      ref={setNodeRef}
      data-step={path}
      tabIndex={-1}
      style={transform ? { transform: `translate3d(0, ${transform.y}px, 0)` } : undefined}
      onKeyDown={(event) => {
        const own = event.target === event.currentTarget;
        if (event.altKey && (event.key === "ArrowUp" || event.key === "ArrowDown")) {
          event.preventDefault();
          event.stopPropagation();
          onMove(event.key === "ArrowUp" ? -1 : 1);
        } else if (own && event.key === "Delete") onRemove();
      }}
      className={`grid grid-cols-[28px_minmax(0,1fr)_auto] items-start gap-x-2.5 rounded-md border border-rule bg-sheet px-2.5 py-1.5 ${isDragging ? "relative z-10 border-ink" : ""}`}
    >
      <span
        className={`grid h-7 min-w-7 place-items-center rounded-md px-1 font-mono text-sm font-bold ${TONE[facts.colour]}`}
      >
        {index + 1}
      </span>
      <b className="leading-7">{facts.title}</b>
      <span className="flex">
        <button
          type="button"
          aria-label={`Move step ${path} up`}
          disabled={index === 0}
          onClick={() => onMove(-1)}
          className="rounded-sm px-1.5 disabled:text-rule"
        >
          ↑
        </button>
        <button
          type="button"
          aria-label={`Move step ${path} down`}
          disabled={index === count - 1}
          onClick={() => onMove(1)}
          className="rounded-sm px-1.5 disabled:text-rule"
        >
          ↓
        </button>
        <button type="button" aria-label={`Remove step ${path}`} onClick={onRemove} className="rounded-sm px-1.5">
          ×
        </button>
        <button
          type="button"
          {...attributes}
          {...listeners}
          aria-label={`Drag step ${path}`}
          className="cursor-grab touch-none rounded-sm px-1 text-ink-3"
        >
          ⋮⋮
        </button>
      </span>
      <div className="col-span-2 col-start-2 min-w-0">
        <Params step={step} names={names} onChange={onChange} begins={isNew} />
        {findings.map((finding) => (
          <FindingLine key={finding.code + finding.text} macro={macro} finding={finding} />
        ))}
        {children}
      </div>
    </li>
  );
}
