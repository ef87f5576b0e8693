"use client";
import {
  closestCenter,
  DndContext,
  KeyboardSensor,
  PointerSensor,
  useSensor,
  useSensors,
  type DragEndEvent,
} from "@dnd-kit/core";
import {
  arrayMove,
  SortableContext,
  sortableKeyboardCoordinates,
  useSortable,
  verticalListSortingStrategy,
} from "@dnd-kit/sortable";
import { useState } from "react";
import type { MacroShape } from "@/core/api";
import { MOST_STEPS, STEP_KINDS, stepFacts, type Step, type StepKind } from "@/core/macro";
import { Picker } from "../parts/picker";
import { TONE } from "../parts/tone";
import { changeMacro } from "./edit";
import { Params } from "./params";

interface CardProps {
  readonly step: Step;
  readonly index: number;
  readonly count: number;
  readonly onChange: (step: Step) => void;
  readonly onRemove: () => void;
  readonly onMove: (by: 1 | -1) => void;
}

function StepCard({ step, index, count, onChange, onRemove, onMove }: CardProps) {
  const { attributes, listeners, setNodeRef, transform, isDragging } = useSortable({ id: `step-${index}` });
  const facts = stepFacts(step.do);
  return (
    <li
      ref={setNodeRef}
      data-step={index + 1}
      style={transform ? { transform: `translate3d(0, ${transform.y}px, 0)` } : undefined}
      onKeyDown={(event) => {
        if (!event.altKey || (event.key !== "ArrowUp" && event.key !== "ArrowDown")) return;
        event.preventDefault();
        onMove(event.key === "ArrowUp" ? -1 : 1);
      }}
      className={`grid grid-cols-[28px_1fr_auto] items-start gap-x-2.5 rounded-md border border-rule bg-sheet px-2.5 py-2 ${isDragging ? "relative z-10 border-ink" : ""}`}
    >
      <span className={`grid h-7 w-7 place-items-center rounded-md font-mono text-sm font-bold ${TONE[facts.colour]}`}>
        {index + 1}
      </span>
      <div className="min-w-0">
        <b className="block leading-7">{facts.title}</b>
        <Params step={step} onChange={onChange} />
      </div>
      <span className="flex gap-1">
        <button
          type="button"
          aria-label={`Move step ${index + 1} up`}
          disabled={index === 0}
          onClick={() => onMove(-1)}
          className="rounded-sm px-1.5 disabled:text-rule"
        >
          ↑
        </button>
        <button
          type="button"
          aria-label={`Move step ${index + 1} down`}
          disabled={index === count - 1}
          onClick={() => onMove(1)}
          className="rounded-sm px-1.5 disabled:text-rule"
        >
          ↓
        </button>
        <button type="button" aria-label={`Remove step ${index + 1}`} onClick={onRemove} className="rounded-sm px-1.5">
          ×
        </button>
        <button
          type="button"
          {...attributes}
          {...listeners}
          aria-label={`Drag step ${index + 1}`}
          className="cursor-grab touch-none rounded-sm px-1.5 text-ink-3"
        >
          ⋮⋮
        </button>
      </span>
    </li>
  );
}

/** The steps of a macro: added, removed, reordered by keys or by dragging, each with its parameters. */
export function Steps({ macro }: { readonly macro: MacroShape }) {
  const [adding, setAdding] = useState(false);
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const { steps } = macro;
  const store = (next: Step[], name: string) => void changeMacro(macro, { steps: next }, name);
  const move = (from: number, to: number) => {
    if (to >= 0 && to < steps.length && from !== to)
      store(arrayMove([...steps], from, to), `Moved step ${from + 1} to ${to + 1}`);
  };
  const dropped = ({ active, over }: DragEndEvent) => {
    if (over) move(Number(String(active.id).slice(5)), Number(String(over.id).slice(5)));
  };
  const add = (kind: string) => {
    setAdding(false);
    store([...steps, STEP_KINDS[kind as StepKind].fresh], `Added ${kind}`);
  };
  return (
    <>
      <DndContext sensors={sensors} collisionDetection={closestCenter} onDragEnd={dropped}>
        <SortableContext items={steps.map((_, i) => `step-${i}`)} strategy={verticalListSortingStrategy}>
          <ol aria-label="Steps" className="flex flex-col gap-2">
            {steps.map((step, i) => (
              <StepCard
                key={`${macro.id} ${i} ${JSON.stringify(step)}`}
                step={step}
                index={i}
                count={steps.length}
                onChange={(next) =>
                  store(
                    steps.map((s, j) => (j === i ? next : s)),
                    `Changed step ${i + 1}`,
                  )
                }
                onRemove={() =>
                  store(
                    steps.filter((_, j) => j !== i),
                    `Removed step ${i + 1}`,
                  )
                }
                onMove={(by) => move(i, i + by)}
              />
            ))}
          </ol>
        </SortableContext>
      </DndContext>
      <button
        type="button"
        data-add-step
        disabled={steps.length >= MOST_STEPS}
        onClick={() => setAdding(true)}
        className="mt-2 w-full rounded-md border border-dashed border-edge px-2.5 py-2 text-left text-ink-2"
      >
        Add a step
      </button>
      {adding && (
        <Picker
          title="Add a step"
          choices={(Object.keys(STEP_KINDS) as StepKind[]).map((kind) => ({
            id: kind,
            name: STEP_KINDS[kind].title,
            detail: STEP_KINDS[kind].family,
          }))}
          onChoose={add}
          onClose={() => setAdding(false)}
        />
      )}
    </>
  );
}
