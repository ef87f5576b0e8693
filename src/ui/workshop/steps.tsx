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
import { SortableContext, sortableKeyboardCoordinates, verticalListSortingStrategy } from "@dnd-kit/sortable";
import { useState } from "react";
import type { MacroShape } from "@/core/api";
import {
  insertAt,
  listAt,
  MOST_STEPS,
  moveWithin,
  removeAt,
  replaceAt,
  STEP_KINDS,
  walkSteps,
  type Finding,
  type Step,
  type StepKind,
} from "@/core/macro";
import { Picker } from "../parts/picker";
import { changeSteps } from "./edit";
import { enterStep } from "./go-on";
import { StepCard } from "./step-card";

interface Props {
  readonly macro: MacroShape;
  readonly findings: readonly Finding[];
  /** The list these are: "" for the macro itself, "3." or "3.else." for a branch. */
  readonly under?: string;
}

/** Names of the ask steps that come before a step, wherever they are. */
function namesBefore(steps: readonly Step[], path: string): string[] {
  const names: string[] = [];
  for (const { step, path: at } of walkSteps(steps)) {
    if (at === path) break;
    if (step.do === "ask") names.push(step.name);
  }
  return names;
}

/** A changed condition with the branches as they are by now. */
function keepBranches(steps: readonly Step[], path: string, next: Step): Step {
  if (next.do !== "if") return next;
  return { ...next, then: listAt(steps, `${path}.`), else: listAt(steps, `${path}.else.`) };
}

/** The steps of a macro or of one of its branches: added, removed, reordered by keys or by dragging. */
export function Steps({ macro, findings, under = "" }: Props) {
  const [adding, setAdding] = useState(false);
  /** The step that is just being added: what it is about is chosen at once. */
  const [added, setAdded] = useState<string | null>(null);
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const { steps } = macro;
  const list = listAt(steps, under);
  const store = (change: (steps: readonly Step[]) => readonly Step[], name: string) =>
    void changeSteps(macro, change, name);
  const move = (from: number, to: number) => {
    if (to < 0 || to >= list.length || from === to) return;
    store((now) => moveWithin(now, `${under}${from + 1}`, to), `Moved step ${under}${from + 1} to ${under}${to + 1}`);
    // The focus goes along with the step that was moved.
    requestAnimationFrame(() => document.querySelector<HTMLElement>(`[data-step="${under}${to + 1}"]`)?.focus());
  };
  const dropped = ({ active, over }: DragEndEvent) => {
    if (over) move(Number(String(active.id).split(" ")[1]), Number(String(over.id).split(" ")[1]));
  };
  const add = (kind: string) => {
    setAdding(false);
    const { fresh } = STEP_KINDS[kind as StepKind];
    const path = `${under}${list.length + 1}`;
    store((now) => insertAt(now, { under, index: listAt(now, under).length }, fresh), `Added ${kind}`);
    setAdded(path);
    // Once the picker has given the focus back, it goes into the step.
    setTimeout(() => {
      enterStep(path, under);
      setAdded(null);
    }, 0);
  };
  return (
    <>
      <DndContext sensors={sensors} collisionDetection={closestCenter} onDragEnd={dropped}>
        <SortableContext items={list.map((_, i) => `step ${i}`)} strategy={verticalListSortingStrategy}>
          <ol aria-label={under === "" ? "Steps" : `Steps ${under}`} className="flex flex-col gap-1.5">
            {list.map((step, i) => {
              const path = `${under}${i + 1}`;
              return (
                <StepCard
                  key={`${macro.id} ${path} ${step.do}`}
                  step={step}
                  path={path}
                  index={i}
                  count={list.length}
                  names={namesBefore(steps, path)}
                  isNew={added === path}
                  findings={findings.filter((finding) => finding.path === path)}
                  macro={macro}
                  onChange={(next) =>
                    store((now) => replaceAt(now, path, keepBranches(now, path, next)), `Changed step ${path}`)
                  }
                  onRemove={() => store((now) => removeAt(now, path), `Removed step ${path}`)}
                  onMove={(by) => move(i, i + by)}
                >
                  {step.do === "if" && (
                    <div className="mt-2 flex flex-col gap-2">
                      <p className="text-xs font-semibold text-ink-2">then</p>
                      <Steps macro={macro} findings={findings} under={`${path}.`} />
                      <p className="text-xs font-semibold text-ink-2">else</p>
                      <Steps macro={macro} findings={findings} under={`${path}.else.`} />
                    </div>
                  )}
                </StepCard>
              );
            })}
          </ol>
        </SortableContext>
      </DndContext>
      <button
        type="button"
        data-add-step={under === "" ? "" : under}
        disabled={list.length >= MOST_STEPS}
        onClick={() => setAdding(true)}
        className={`w-full rounded-md border border-dashed border-edge px-2.5 text-left text-ink-2 ${under === "" ? "mt-2 py-2" : "py-1 text-[13px]"}`}
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
