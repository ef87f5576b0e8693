import { memo } from "react";
import type { CalendarShape, FitShape, TaskShape } from "@/core/api";
import { USUAL_ESTIMATE, type EventPatch } from "@/core/calendar";
import { useKeptChoice } from "../parts/kept-choice";
import { applyFit, askTo, giveTime, lasting, tellOf } from "./acts";
import { Calendars } from "./calendars";
import { EventDetails } from "./event-details";
import { FitPanel } from "./fit-panel";
import type { useGridPull } from "./grid-drag";
import type { Shown } from "./shown";
import { TaskShelf } from "./task-shelf";
import { titleOf } from "./words";

interface Props {
  /** What everything is said about; null where nothing is there. */
  readonly told: Shown | null;
  /** Whether a person chose it; otherwise it is what comes next. */
  readonly isChosen: boolean;
  readonly tasks: ReadonlyMap<number, TaskShape>;
  readonly open: readonly TaskShape[];
  /** Tasks that have their time. */
  readonly planned: ReadonlySet<number>;
  readonly calendars: readonly CalendarShape[];
  readonly zone: string;
  readonly now: number;
  /** The proposal that is looked at, instead of everything else. */
  readonly fit: FitShape | null;
  readonly onChoose: (one: Shown) => void;
  readonly onFit: (fit: FitShape | null) => void;
  readonly hidden: ReadonlySet<number>;
  readonly onHide: (id: number, hide: boolean) => void;
  readonly onHours: (isDrawing: boolean) => void;
  /** Null deletes. */
  readonly onChange: (one: Shown, patch: EventPatch | null) => void;
  readonly onOpen: (one: Shown) => void;
  readonly onHold: ReturnType<typeof useGridPull>["hold"];
}

const PANELS = ["tasks", "calendars"] as const;

/** What stands beside the days: everything about one event, and what waits for a time, or the calendars. */
export const Beside = memo(function Beside(props: Props) {
  const { told, isChosen, tasks, open, planned, calendars, zone, now, fit, hidden, onFit, onChange } = props;
  const [panel, setPanel] = useKeptChoice("agenda panel", PANELS);
  return (
    <aside className="flex min-h-0 flex-col overflow-y-auto border-rule max-lg:max-h-[45vh] max-lg:border-t lg:border-l">
      {fit ? (
        <FitPanel
          fit={fit}
          tasks={tasks}
          zone={zone}
          now={now}
          onApply={() => {
            void applyFit(fit);
            onFit(null);
          }}
          onClose={() => onFit(null)}
        />
      ) : (
        <>
          {told && (
            // Whoever is writing about what comes next stays with it when that is something else.
            <div className={isChosen ? "" : "max-lg:hidden"} onFocus={() => props.onChoose(told)}>
              <EventDetails
                key={`${lasting(told.event.id)} ${told.at}`}
                shown={told}
                title={titleOf(told.event, tasks)}
                calendars={calendars}
                zone={zone}
                onChange={(patch) => onChange(told, patch)}
                onRemove={() => onChange(told, null)}
                onOpen={() => props.onOpen(told)}
                onTell={(what) => tellOf(told.event, what)}
                onInvite={(addresses) => askTo(told.event, addresses)}
              />
            </div>
          )}
          <div role="group" aria-label="Beside the days" className="flex border-y border-rule bg-well text-[13px]">
            {PANELS.map((one) => (
              <button
                key={one}
                type="button"
                aria-pressed={panel === one}
                onClick={() => setPanel(one)}
                className={`flex-1 px-3 py-1 ${panel === one ? "bg-sheet font-bold" : "text-ink-2"}`}
              >
                {one === "tasks" ? `open tasks ${open.length}` : "calendars"}
              </button>
            ))}
          </div>
          {panel === "tasks" ? (
            <TaskShelf
              tasks={open}
              planned={planned}
              zone={zone}
              now={now}
              onHold={(event, task) =>
                props.onHold(event, { kind: "task", task, minutes: task.estimate ?? USUAL_ESTIMATE }, null)
              }
              onGive={(task) => void giveTime(task)}
            />
          ) : (
            <Calendars hidden={hidden} onHide={props.onHide} onHours={() => props.onHours(true)} />
          )}
        </>
      )}
    </aside>
  );
});
