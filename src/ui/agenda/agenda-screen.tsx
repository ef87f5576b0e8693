"use client";
import { useRouter } from "next/navigation";
import { useCallback, useMemo, useRef, useState } from "react";
import { flushSync } from "react-dom";
import type { FitShape } from "@/core/api";
import { comesAgain, instantAt, readWall, wallOf, type EventPatch, type Scope } from "@/core/calendar";
import { USUAL_WORK_HOURS } from "@/core/when";
import { useKeptChoice } from "../parts/kept-choice";
import { Choice } from "../parts/choice";
import { HeaderNotice } from "../parts/notice";
import { useNow } from "../parts/now";
import { useScreenKeys } from "../parts/screen-keys";
import { useAfterPaint } from "../parts/use-after-paint";
import { get } from "../state/api";
import { focusMessage, goToPlace } from "../state/browse";
import { redoLast, undoLast } from "../state/edits";
import { startPass } from "../state/pass";
import { notify, useView } from "../state/store";
import { addEvent, changeEvent, giveTime, removeEvent, type NewEvent } from "./acts";
import { useAgendaKeys } from "./agenda-keys";
import { Beside } from "./beside";
import { FIRST_FIELD, startMoved, timeOf } from "./event-details";
import { flagsDue } from "./flags";
import { useGridPull, type Pull, type Spot } from "./grid-drag";
import { MonthGrid } from "./month";
import { QuickEvent } from "./quick-event";
import { ScopeChoice } from "./scope";
import { dayAt, weekStart, type Day, type Shown } from "./shown";
import { keyOf, turned, useAgenda } from "./use-agenda";
import { WeekGrid } from "./week";
import { WorkHours } from "./work-hours";
import { dayText, fullDayText, monthName, VIEWS, type ViewName } from "./words";

interface Asked {
  readonly one: Shown;
  /** Null deletes. */
  readonly patch: EventPatch | null;
}

const periodText = (view: ViewName, anchor: Day): string => {
  if (view === "month") return monthName(anchor);
  if (view === "day") return fullDayText(anchor);
  const first = weekStart(anchor);
  return `${dayText(first)} – ${dayText(wallOf(readWall(first) + 6 * 86_400_000, true))} ${first.slice(0, 4)}`;
};

/** Days, weeks and months: what takes place, what is due, and where there is time for it. */
export function AgendaScreen() {
  const router = useRouter();
  const zone = useView((v) => v.home?.person.zone ?? "UTC");
  const workHours = useView((v) => v.home?.settings.workHours ?? USUAL_WORK_HOURS);
  const dialog = useView((v) => v.dialog);
  const [view, setView] = useKeptChoice<ViewName>("agenda view", VIEWS);
  const now = useNow(30_000);
  const agenda = useAgenda(view, zone, now);
  const { anchor, focused, byId, shown, choose, chooseNew, setDay } = agenda;
  const [asked, setAsked] = useState<Asked | null>(null);
  const [drawing, setDrawing] = useState(false);
  const [fit, setFit] = useState<FitShape | null>(null);
  const entry = useRef<HTMLInputElement>(null);
  const columns = useRef<HTMLDivElement>(null);

  // The days go first with a key; everything about what is chosen now follows them in the next frame.
  const later = useAfterPaint(focused);
  const [atOnce, setAtOnce] = useState<string | null>(null);
  const told = focused !== null && keyOf(focused) === atOnce ? focused : later;

  const carryOut = useCallback(
    ({ one, patch }: Asked, scope: Scope) => {
      if (patch === null) void removeEvent(one.event, one.at, scope);
      else chooseNew(changeEvent(one.event, one.at, scope, patch), patch.start ?? one.at);
    },
    [chooseNew],
  );
  /** What comes again is asked about, anything else is done. */
  const ask = useCallback(
    (one: Shown, patch: EventPatch | null) => {
      const isSeries = comesAgain(one.event) && one.event.instead === null;
      if (isSeries && patch?.rule === undefined && patch?.calendar === undefined) setAsked({ one, patch });
      else carryOut({ one, patch }, "all");
    },
    [carryOut],
  );
  const add = (line: NewEvent) => {
    const { id, stored } = addEvent(line);
    setDay(line.start.slice(0, 10));
    chooseNew(id, line.start);
    setAtOnce(`${id} ${line.start}`);
    return stored;
  };
  const onDrop = (pull: Pull, { day, from, to }: Spot) => {
    const start = wallOf(readWall(day) + from * 60_000);
    if (pull.kind === "task") void giveTime(pull.task, new Date(instantAt(zone, readWall(start))).toISOString());
    else if (pull.kind === "new") {
      void add({ title: "New", place: "", start, length: (to - from) * 60, rule: null });
      // What it is is typed over it.
      requestAnimationFrame(() => (document.getElementById(FIRST_FIELD) as HTMLInputElement | null)?.select());
    }
    if (pull.kind === "move" || pull.kind === "end") {
      const { shown } = pull;
      const own = shown.event.zone === "" || shown.event.zone === zone;
      // Elsewhere's clock is moved by as much as this one.
      const by = (instantAt(zone, readWall(start)) - shown.start) / 60_000;
      const at = own ? start : startMoved(timeOf(shown.event, shown.at), by);
      const isSame = pull.kind === "move" ? by === 0 : (to - from) * 60 === shown.event.length;
      choose(shown);
      if (!isSame) ask(shown, pull.kind === "move" ? { start: at } : { length: (to - from) * 60 });
    }
  };
  const pull = useGridPull(columns, onDrop);

  const open = useCallback(
    ({ event: { block, message, task } }: Shown) => {
      if (block !== null) {
        goToPlace(block);
        router.push("/");
        startPass();
      } else if (message !== null) {
        goToPlace("");
        focusMessage(message);
        router.push("/");
      } else if (task !== null) router.push("/tasks");
    },
    [router],
  );
  const remove = () => focused && agenda.isChosen && ask(focused, null);
  const propose = async () => {
    try {
      setFit(await get<FitShape>("/agenda/fit"));
    } catch (error) {
      notify(error instanceof Error ? error.message : "No proposal came.", "trouble");
    }
  };
  const show = (next: ViewName) => setView(next);
  const toDay = useCallback(
    (day: Day) => {
      setDay(day);
      setView("day");
    },
    [setDay, setView],
  );
  const onFocus = useCallback((key: string) => choose(shown.find((one) => one.key === key)), [choose, shown]);
  const isOn = dialog === null && asked === null && !drawing;
  useAgendaKeys(isOn, {
    show,
    turn: (by) => setDay(turned(view, anchor, by)),
    today: () => setDay(dayAt(zone, Date.now())),
    fit: () => void (fit ? setFit(null) : propose()),
    remove,
    move: (minutes) => {
      if (!focused) return;
      const whole = focused.event.start.length === 10;
      if (whole && minutes % 1440 !== 0) return;
      ask(focused, { start: startMoved(timeOf(focused.event, focused.at), minutes) });
    },
    stretch: (minutes) => {
      if (!focused || focused.event.start.length === 10) return;
      const length = Math.max(15 * 60, focused.event.length + minutes * 60);
      if (length !== focused.event.length) ask(focused, { length });
    },
  });
  useScreenKeys({
    next: () => agenda.go(1),
    previous: () => agenda.go(-1),
    first: () => choose(shown[0]),
    last: () => choose(shown.at(-1)),
    open: () => focused && open(focused),
    read: () => {
      // Its field, not that of the one before, which is just being left.
      flushSync(() => setAtOnce(focused && keyOf(focused)));
      document.getElementById(FIRST_FIELD)?.focus();
    },
    compose: () => entry.current?.focus(),
    escape: () => setFit(null),
    undo: () => void undoLast(),
    redo: () => void redoLast(),
  });

  const openTasks = useMemo(() => agenda.tasks.filter(({ done, waiting }) => !done && !waiting), [agenda.tasks]);
  const due = useMemo(
    () => [
      ...openTasks.flatMap(({ id, due: at, title }) =>
        at === null ? [] : [{ key: `task ${id}`, at: Date.parse(at), text: title }],
      ),
      ...flagsDue(agenda.range),
    ],
    [openTasks, agenda.range],
  );
  const planned = useMemo(
    () => new Set(agenda.events.flatMap(({ task }) => (task === null ? [] : [task]))),
    [agenda.events],
  );
  const proposed = useMemo(
    () =>
      (fit?.moves ?? []).flatMap(({ task, after }) =>
        after.map(({ start, end }) => ({
          start: Date.parse(start),
          end: Date.parse(end),
          title: byId.get(task)?.title ?? "",
        })),
      ),
    [fit, byId],
  );
  const shared = {
    due,
    tasks: byId,
    calendars: agenda.calendarById,
    zone,
    now,
    focused: focused?.key ?? null,
    onFocus,
    onDay: toDay,
  };
  return (
    <main id="main" className="flex h-full flex-col" data-ready={!agenda.isLoading || undefined}>
      <header className="flex min-h-[46px] flex-wrap items-center gap-x-3 gap-y-1 border-b border-rule px-3.5 py-1.5">
        <h1 className="text-[15px] font-bold">Agenda</h1>
        <span className="flex items-center gap-1">
          <button
            type="button"
            aria-label={`The ${view} before`}
            onClick={() => setDay(turned(view, anchor, -1))}
            className={STEP}
          >
            ←
          </button>
          <button
            type="button"
            aria-label={`The next ${view}`}
            onClick={() => setDay(turned(view, anchor, 1))}
            className={STEP}
          >
            →
          </button>
          <button type="button" onClick={() => setDay(dayAt(zone, Date.now()))} className={STEP}>
            today
          </button>
        </span>
        <span className="text-[13px] font-semibold" data-period={anchor}>
          {periodText(view, anchor)}
        </span>
        <HeaderNotice />
        <button
          type="button"
          onClick={() => void propose()}
          className="rounded-sm border border-edge bg-sheet px-2.5 py-0.5 text-[13px]"
        >
          Fit tasks <kbd>F</kbd>
        </button>
        <Choice label="Shown as" options={VIEWS} value={view} onChoose={setView} />
      </header>
      {agenda.error && (
        <p role="alert" className="bg-brick-soft px-3.5 py-2">
          {agenda.error.message}{" "}
          <button type="button" onClick={() => void agenda.refetch()} className="underline">
            Read again
          </button>
        </p>
      )}
      <QuickEvent field={entry} day={anchor} zone={zone} onAdd={add} />
      <div className="grid min-h-0 flex-1 grid-rows-[minmax(0,1fr)] lg:grid-cols-[minmax(0,1fr)_300px]">
        <div className="flex min-h-0 min-w-0 flex-col">
          {view === "month" ? (
            <MonthGrid {...shared} shown={shown} anchor={anchor} />
          ) : (
            <WeekGrid
              {...shared}
              days={agenda.days}
              held={agenda.held}
              workHours={workHours}
              proposed={proposed}
              columns={columns}
              pull={pull}
            />
          )}
        </div>
        <Beside
          told={told}
          isChosen={agenda.isChosen}
          tasks={byId}
          open={openTasks}
          planned={planned}
          calendars={agenda.calendars}
          zone={zone}
          now={now}
          fit={fit}
          onChoose={choose}
          onFit={setFit}
          hidden={agenda.hidden}
          onHide={agenda.hide}
          onHours={setDrawing}
          onChange={ask}
          onOpen={open}
          onHold={pull.hold}
        />
      </div>
      <footer className="border-t border-rule px-3.5 py-1.5 text-[13px] text-ink-2 max-md:hidden">
        <kbd>J</kbd> <kbd>K</kbd> one to the next, <kbd>←</kbd> <kbd>→</kbd> {view}s, <kbd>0</kbd> today, <kbd>1</kbd>{" "}
        week, <kbd>2</kbd> day, <kbd>3</kbd> month, <kbd>Shift</kbd> with arrows moves it, <kbd>Ctrl</kbd> with arrows
        makes it longer, <kbd>Space</kbd> changes it, <kbd>N</kbd> a new one, <kbd>Enter</kbd> opens, <kbd>Del</kbd>{" "}
        deletes, <kbd>F</kbd> fits tasks, <kbd>U</kbd> takes back.
      </footer>
      {drawing && <WorkHours hours={workHours} onClose={() => setDrawing(false)} />}
      {asked && (
        <ScopeChoice
          verb={asked.patch === null ? "Delete" : "Change"}
          title={asked.one.event.title}
          onClose={() => setAsked(null)}
          onChoose={(scope) => {
            setAsked(null);
            carryOut(asked, scope);
          }}
        />
      )}
    </main>
  );
}

const STEP = "rounded-sm border border-edge bg-sheet px-2 py-0.5 text-[13px]";
