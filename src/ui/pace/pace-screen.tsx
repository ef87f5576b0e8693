"use client";
import { useQuery } from "@tanstack/react-query";
import { useRouter } from "next/navigation";
import { useRef, useState, type ReactNode } from "react";
import type { PaceFigure } from "@/core/api";
import { wallAt } from "@/core/calendar";
import { dayText } from "@/core/pace";
import { useKeptChoice } from "../parts/kept-choice";
import { useKeptInView } from "../parts/kept-in-view";
import { Choice } from "../parts/choice";
import { HeaderNotice } from "../parts/notice";
import { useNow } from "../parts/now";
import { useScreenKeys } from "../parts/screen-keys";
import { countText } from "../parts/words";
import { paceAddress } from "../state/api";
import { goToPlace } from "../state/browse";
import { openDraft } from "../state/compose";
import { redoLast, undoLast } from "../state/edits";
import { accounts as accountsRead } from "../state/reads";
import { set, useView } from "../state/store";
import { BacklogChart, FlowChart, WaitsChart } from "./charts";
import { FigureFrame, FigureTable } from "./figure-frame";
import { backlogFigure, flowFigure, macrosFigure, sendersFigure, weekFigure, type Figure } from "./figures";
import { WeekHeat } from "./heat";
import { usePaceKeys } from "./pace-keys";
import { PERIOD_NAMES, PERIODS, spanOf } from "./period";
import { Review } from "./review";
import { Summary } from "./summary";
import { queryOf, usePace } from "./use-pace";
import { writeToMyself } from "./write-to-myself";
import { dayBeside } from "./words";

const DAY_MS = 86_400_000;
const FIELD =
  "rounded-sm border border-edge bg-sheet px-2 py-0.5 text-[13px] disabled:border-rule disabled:text-ink-3 max-md:py-1.5";

/** Figures and charts: where the hours go, and what would save them. */
export function PaceScreen() {
  const router = useRouter();
  const zone = useView((v) => v.home?.person.zone ?? "UTC");
  const dialog = useView((v) => v.dialog);
  const now = useNow(60_000);
  const [name, setName] = useKeptChoice("pace period", PERIOD_NAMES);
  const [back, setBack] = useState(0);
  const [place, setPlace] = useState<number | null>(null);
  const [account, setAccount] = useState<number | null>(null);
  const [until, setUntil] = useState<string | null>(null);
  const [week, setWeek] = useState<string | null>(null);
  const [focus, setFocus] = useState<PaceFigure>("backlog");
  // By what they are of: a key may come before the figures of a new period do, and means the same in them.
  const [points, setPoints] = useState<Partial<Record<PaceFigure, string>>>({});
  const [tables, setTables] = useState<ReadonlySet<PaceFigure>>(new Set());
  const placeField = useRef<HTMLSelectElement>(null);
  const accountField = useRef<HTMLSelectElement>(null);
  const untilField = useRef<HTMLInputElement>(null);
  const box = useRef<HTMLDivElement>(null);
  const keep = useKeptInView(box);
  const known = useQuery(accountsRead).data ?? [];

  const period = PERIODS.find((one) => one.name === name)!;
  const today = Math.floor(wallAt(zone, now) / DAY_MS);
  const asked = { period, span: spanOf(period, today, back), place, account, until };
  const [from, to] = [dayText(asked.span.from), dayText(asked.span.to)];
  const { pace, senders, macros } = usePace(asked);
  const figures: readonly Figure[] = pace.data
    ? [
        backlogFigure(pace.data),
        flowFigure(pace.data),
        weekFigure(pace.data),
        macrosFigure(macros.data ?? []),
        sendersFigure(senders.data ?? [], pace.data),
      ]
    : [];
  const figure = figures.find(({ id }) => id === focus);
  const atOf = (of: Figure | undefined): number | null => {
    const at = of?.points.findIndex(({ key }) => key === points[of.id]) ?? -1;
    return at < 0 ? null : at;
  };
  const toPoint = (of: Figure) => (at: number) => setPoints({ ...points, [of.id]: of.points[at]?.key });
  const csvOf = (id: PaceFigure) => paceAddress(`figure=${id}&${queryOf(asked)}`);
  const error = pace.error ?? senders.error ?? macros.error;

  const toFigure = (id: PaceFigure) => {
    setFocus(id);
    keep(`[data-figure="${id}"]`, "nearest");
  };
  const toTime = (next: typeof name, by = 0) => {
    setName(next);
    setBack(by);
    setPoints({});
  };
  const openMail = (narrow: string) => {
    goToPlace(narrow);
    router.push("/");
  };
  const open = (of: Figure | undefined, at: number | null) => {
    const point = at === null ? undefined : of?.points[at];
    if (point?.narrow) return openMail(point.narrow);
    if (point?.macro) {
      set({ ledgerMessage: null, ledgerMacro: point.macro });
      router.push("/ledger");
    }
  };
  const writeMyself = async (...letter: Parameters<typeof writeToMyself>) => {
    const draft = await writeToMyself(...letter);
    if (draft === null) return;
    openDraft(draft);
    router.push("/");
  };
  const toggleTable = (id: PaceFigure) => {
    const next = new Set(tables);
    if (!next.delete(id)) next.add(id);
    setTables(next);
  };
  useScreenKeys({ undo: undoLast, redo: redoLast });
  usePaceKeys(dialog === null, {
    period: (number) => toTime(PERIODS[number]!.name),
    back: (by) => toTime(name, Math.max(0, back + by)),
    figure: (by) => {
      const at = figures.findIndex(({ id }) => id === focus) + by;
      const next = figures[Math.max(0, Math.min(figures.length - 1, at))];
      if (next) toFigure(next.id);
    },
    point: (by) => {
      if (!figure || figure.points.length === 0) return;
      const last = figure.points.length - 1;
      // Of time the newest is looked at first, of names the first.
      const at = atOf(figure) ?? (isOfTime(focus) ? last + 1 : -1);
      toPoint(figure)(Math.max(0, Math.min(last, at + by)));
    },
    open: () => open(figure, atOf(figure)),
    table: () => toggleTable(focus),
    save: () => box.current?.querySelector<HTMLElement>(`[data-figure="${focus}"] a[download]`)?.click(),
    place: () => placeField.current?.focus(),
    account: () => accountField.current?.focus(),
    until: () => untilField.current?.focus(),
    review: () => keep('[data-figure="review"]', "start"),
  });

  const frame = (of: Figure, children: ReactNode, onlyTable = false) => (
    <FigureFrame
      key={of.id}
      figure={of}
      focused={of.id === focus}
      asTable={tables.has(of.id) && !onlyTable}
      hasChart={!onlyTable}
      at={atOf(of)}
      csv={csvOf(of.id)}
      onFocus={() => setFocus(of.id)}
      onTable={() => toggleTable(of.id)}
      onOpen={(at) => open(of, at)}
      onPoint={toPoint(of)}
    >
      {children}
    </FigureFrame>
  );
  const tableOf = (of: Figure) => (
    <FigureTable figure={of} at={atOf(of)} onOpen={(at) => open(of, at)} onPoint={toPoint(of)} />
  );

  return (
    <main id="main" className="flex h-full flex-col" data-ready>
      <header className="flex min-h-[46px] flex-wrap items-center gap-x-2 gap-y-1 border-b border-rule px-3.5 py-1.5">
        <h1 className="mr-1 text-[15px] font-bold">Pace</h1>
        <Choice label="How long" options={PERIOD_NAMES} value={name} onChoose={(one) => toTime(one)} numbered />
        <button type="button" onClick={() => toTime(name, back + 1)} className={FIELD}>
          Earlier
        </button>
        <button type="button" disabled={back === 0} onClick={() => toTime(name, back - 1)} className={FIELD}>
          Later
        </button>
        <span className="text-[13px] text-ink-2" data-testid="span">
          {dayBeside(from, to)} – {dayBeside(to, dayText(today))}
        </span>
        {pace.data && (
          <select
            ref={placeField}
            aria-label="Place"
            value={place ?? ""}
            onChange={(event) => setPlace(event.target.value === "" ? null : Number(event.target.value))}
            className={`${FIELD} max-w-48`}
          >
            {pace.data.places.map(({ id, name: path, open: n }, i) => (
              <option key={id} value={i === 0 ? "" : id}>
                {path} ({countText(n)})
              </option>
            ))}
          </select>
        )}
        {known.length > 0 && (
          <select
            ref={accountField}
            aria-label="Account"
            value={account ?? ""}
            onChange={(event) => setAccount(event.target.value === "" ? null : Number(event.target.value))}
            className={`${FIELD} max-w-48`}
          >
            <option value="">all accounts</option>
            {known.map(({ id, name: of }) => (
              <option key={id} value={id}>
                {of}
              </option>
            ))}
          </select>
        )}
        <HeaderNotice />
      </header>
      {error && (
        <p role="alert" className="bg-brick-soft px-3.5 py-2">
          {error.message}{" "}
          <button
            type="button"
            onClick={() => [pace, senders, macros].forEach((one) => void one.refetch())}
            className={FIELD}
          >
            Read again
          </button>
        </p>
      )}
      <div ref={box} className="min-h-0 flex-1 overflow-auto">
        <div>
          {!pace.data && !error && (
            <p role="status" className="p-3.5">
              Counting…
            </p>
          )}
          {pace.data && (
            <>
              <Summary pace={pace.data} tomorrow={dayText(today + 1)} onUntil={setUntil} untilField={untilField} />
              <div className="grid lg:grid-cols-2">
                {frame(
                  figures[0]!,
                  <BacklogChart pace={pace.data} at={atOf(figures[0])} onPoint={toPoint(figures[0]!)} />,
                )}
                {frame(
                  figures[1]!,
                  <FlowChart pace={pace.data} at={atOf(figures[1])} onPoint={toPoint(figures[1]!)} />,
                )}
                {frame(figures[2]!, <WeekHeat week={pace.data.week} />)}
                {frame(figures[3]!, tableOf(figures[3]!), true)}
              </div>
              {frame(
                figures[4]!,
                <div className="grid gap-2 lg:grid-cols-[minmax(0,3fr)_minmax(0,2fr)]">
                  {tableOf(figures[4]!)}
                  <div>
                    <WaitsChart senders={senders.data ?? []} />
                  </div>
                </div>,
                true,
              )}
              <Review
                week={week}
                onWeek={setWeek}
                onOpen={openMail}
                onWrite={(...letter) => void writeMyself(...letter)}
              />
              <p className="border-t border-rule px-3 py-1.5 text-xs text-ink-2">
                What was decided before {dayBeside(pace.data.since, dayText(today))} is not known. Hours saved are those
                of the keystroke-level model, which is an estimate.
              </p>
            </>
          )}
        </div>
      </div>
      <p className="border-t border-rule px-3.5 py-1.5 text-xs text-ink-2 max-md:hidden">
        <kbd>J</kbd> <kbd>K</kbd> figures, <kbd>←</kbd> <kbd>→</kbd> points, <kbd>Enter</kbd> opens their mail,{" "}
        <kbd>⇧ ←</kbd> <kbd>⇧ →</kbd> earlier and later, <kbd>T</kbd> table, <kbd>C</kbd> CSV, <kbd>P</kbd> place,{" "}
        <kbd>A</kbd> account, <kbd>E</kbd> empty by, <kbd>R</kbd> the week looked back on.
      </p>
    </main>
  );
}

const isOfTime = (id: PaceFigure): boolean => id === "backlog" || id === "flow";
