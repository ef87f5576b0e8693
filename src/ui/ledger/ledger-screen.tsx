"use client";
import { useInfiniteQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import type { EntryShape } from "@/core/api";
import { byRuleAndMinute } from "@/core/ledger";
import { useScreenKeys } from "../parts/screen-keys";
import { longDayText, plural } from "../parts/words";
import { get, write } from "../state/api";
import { redoLast, undoLast } from "../state/edits";
import { refreshSettings } from "../state/settings";
import { mailbox, notify, set, useView, view } from "../state/store";
import { Detail, Entry } from "./entry";
import { Group } from "./group";

const PAGE = 100;
const KEEPS = [
  ["", "for ever"],
  ["30", "30 days"],
  ["90", "90 days"],
  ["365", "a year"],
] as const;

/** Entries with the day they are from, where it changes. */
function byDay(entries: readonly EntryShape[], zone: string): (readonly [day: string, entries: EntryShape[]])[] {
  const days = new Map<string, EntryShape[]>();
  for (const entry of entries) {
    const day = longDayText(entry.at, zone);
    days.set(day, [...(days.get(day) ?? []), entry]);
  }
  return [...days];
}

/** Every run there was, each of which can be taken back or done again. */
export function LedgerScreen() {
  const zone = useView((v) => v.home?.person.zone ?? "UTC");
  const macros = useView((v) => v.macros);
  const live = useView((v) => v.ledger);
  const message = useView((v) => v.ledgerMessage);
  const keep = useView((v) => v.home?.settings.ledgerDays ?? null);
  const notice = useView((v) => v.notice);
  const [macro, setMacro] = useState(() => String(view().ledgerMacro ?? ""));
  // Once: who comes back later wants all of them.
  useEffect(() => set({ ledgerMacro: null }), []);
  const [chosenId, setChosen] = useState<string | null>(null);
  useScreenKeys({ undo: () => void undoLast(), redo: () => void redoLast() });

  const filter = `limit=${PAGE}${macro ? `&macro=${macro}` : ""}${message === null ? "" : `&message=${message}`}`;
  const { data, error, hasNextPage, fetchNextPage, refetch } = useInfiniteQuery({
    queryKey: ["ledger", filter],
    queryFn: ({ pageParam }) => get<EntryShape[]>(`/ledger?${filter}${pageParam ? `&before=${pageParam}` : ""}`),
    initialPageParam: 0,
    getNextPageParam: (page) => (page.length === PAGE ? page.at(-1)!.seq : undefined),
    placeholderData: (before) => before,
  });
  // The newest entries also come as events: then the list is read anew, and once more when what was on its way is there.
  const waiting = useView((v) => v.waiting);
  const newest = `${waiting} ${live.map((entry) => `${entry.id}${entry.state}`).join()}`;
  useEffect(() => void refetch(), [refetch, newest]);
  const pages = data?.pages.flat();
  // What was taken back a moment ago is so in the live ones before it is read.
  const states = new Map(live.map((entry) => [entry.id, entry.state]));
  const shown = (pages ?? []).map((entry) => ({ ...entry, state: states.get(entry.id) ?? entry.state }));
  const chosen = shown.find((entry) => entry.id === chosenId) ?? shown[0] ?? null;
  const keepFor = async (days: string) => {
    try {
      await write("PATCH", "/settings", { ledgerDays: days === "" ? null : Number(days) });
      await refreshSettings();
    } catch (error) {
      notify(error instanceof Error ? error.message : "Not stored.", "trouble");
    }
  };
  const row = message === null ? undefined : mailbox.rowOf(message);
  const FIELD = "rounded-sm border border-rule bg-sheet px-2 py-1 text-[13px]";
  return (
    <main id="main" className="flex h-full flex-col" data-ready>
      <header className="flex min-h-[46px] flex-wrap items-center gap-3 border-b border-rule px-3.5 py-1">
        <h1 className="text-[15px] font-bold">Ledger</h1>
        <select aria-label="Runs of" value={macro} onChange={(event) => setMacro(event.target.value)} className={FIELD}>
          <option value="">all macros</option>
          {macros.map((m) => (
            <option key={m.id} value={m.id}>
              {m.name}
            </option>
          ))}
        </select>
        {message !== null && (
          <button type="button" className={`${FIELD} max-w-80 truncate`} onClick={() => set({ ledgerMessage: null })}>
            only “{row === undefined ? `message ${message}` : mailbox.text(row, "subject")}” ×
          </button>
        )}
        <p
          role="status"
          aria-live="polite"
          data-testid="notice"
          className="min-w-0 flex-1 truncate text-[13px] text-ink-2"
        >
          {notice?.text}
        </p>
        <label className="flex items-center gap-1.5 text-[13px]">
          runs are kept
          <select value={keep ?? ""} onChange={(event) => void keepFor(event.target.value)} className={FIELD}>
            {KEEPS.map(([days, name]) => (
              <option key={days} value={days}>
                {name}
              </option>
            ))}
            {keep !== null && !KEEPS.some(([days]) => days === String(keep)) && (
              <option value={keep}>{keep} days</option>
            )}
          </select>
        </label>
      </header>
      <div className="grid min-h-0 flex-1 lg:grid-cols-2">
        <div className="min-h-0 overflow-y-auto px-3.5 py-2">
          {error && (
            <p role="alert" className="rounded-md bg-brick-soft px-3 py-2">
              {error.message}
            </p>
          )}
          {!pages && !error && <p role="status">Reading the ledger…</p>}
          {pages?.length === 0 && (
            <p className="py-4 text-ink-2">
              {macro || message !== null
                ? "No run fits this."
                : "Nothing has been decided yet. Runs of macros stand here."}
            </p>
          )}
          {byDay(shown, zone).map(([day, entries]) => (
            <section key={day} aria-label={day}>
              <h2 className="mt-3 mb-1 text-xs font-semibold text-ink-2">{day}</h2>
              <ol>
                {byRuleAndMinute(entries).map((group) =>
                  group.length === 1 ? (
                    group.map((entry) => (
                      <Entry
                        key={entry.id}
                        entry={entry}
                        chosen={entry.id === chosen?.id}
                        onChoose={() => setChosen(entry.id)}
                      />
                    ))
                  ) : (
                    <Group key={group[0]!.id} entries={group} chosen={chosen?.id ?? null} onChoose={setChosen} />
                  ),
                )}
              </ol>
            </section>
          ))}
          {hasNextPage && (
            <button
              type="button"
              className="mt-3 rounded-sm border border-rule bg-sheet px-3 py-1 text-[13px]"
              onClick={() => void fetchNextPage()}
            >
              Older runs
            </button>
          )}
        </div>
        <section
          aria-label="What it changed"
          tabIndex={0}
          className="min-h-0 overflow-y-auto border-l border-rule px-[18px] py-3 max-lg:hidden"
        >
          {chosen && (
            <>
              <h2 className="text-[15px] font-bold">
                {chosen.macro.name}: {chosen.about || plural(chosen.messages, "message")}
              </h2>
              <Detail entry={chosen} />
            </>
          )}
        </section>
      </div>
    </main>
  );
}
