"use client";
import { settle, widen } from "../state/browse";
import { set, useView } from "../state/store";
import { ORDER_TEXT } from "./arrange";
import { ExportMenu } from "./export-menu";
import { countText } from "../parts/words";
import { placeName } from "../state/places";
import { countDecided } from "../state/listed";
import { startPass } from "../state/pass";
import { focusNotDone } from "../state/run";
import { clearTicks, tickAll } from "../state/select";
import { NarrowInput } from "./narrow-input";

const BUTTON = "shrink-0 rounded-sm border border-rule bg-sheet px-2 py-1";

/** The place, and the conditions as chips, each of which can be dropped. */
function Chips() {
  const place = useView((v) => v.place);
  const batch = useView((v) => v.home?.batches.find((one) => one.id === v.batch) ?? null);
  const conditions = useView((v) => v.conditions);
  return (
    <>
      {batch ? (
        <button
          type="button"
          onClick={() => set({ dialog: { kind: "batch", batch } })}
          title={`The batch ${batch.name}: ${batch.narrow || "all mail"}. Click to change it.`}
          className="max-w-44 shrink-0 truncate rounded-sm bg-ink px-2 py-1 text-paper"
        >
          {batch.name}
        </button>
      ) : (
        <span className="max-w-44 shrink-0 truncate rounded-sm bg-ink px-2 py-1 text-paper">{placeName(place)}</span>
      )}
      {conditions.map((condition, i) => (
        <button
          key={`${i} ${condition}`}
          type="button"
          onClick={() => widen(i)}
          title="Drop this condition"
          aria-label={`${condition}: drop this condition`}
          className="max-w-60 min-w-12 truncate rounded-sm border border-rule bg-sheet px-2 py-1"
        >
          {condition}{" "}
          <span aria-hidden className="text-ink-3">
            ×
          </span>
        </button>
      ))}
    </>
  );
}

/** What is being waited for, and what of the results is not there yet. */
function Waiting() {
  const link = useView((v) => v.link);
  const awayWhy = useView((v) => v.awayWhy);
  // Only who sees it is told of it: it changes with each key, and with each answer.
  const waiting = useView((v) => (v.link === "away" ? v.waiting : 0));
  const loading = useView((v) => v.loading);
  const total = useView((v) => v.home?.messages ?? 0);
  const searching = useView((v) => v.searching);
  const wordsLeft = useView((v) => v.home?.wordsLeft ?? 0);
  const words = useView((v) => v.asksWords);
  return (
    <>
      {loading !== null && (
        <span className="shrink-0 text-ink-2 max-md:hidden" role="status">
          read {countText(loading)} of {countText(total)}
        </span>
      )}
      {searching && (
        <span className="shrink-0 text-ink-2" role="status">
          searching…
        </span>
      )}
      {words && !searching && wordsLeft > 0 && (
        <span
          className="shrink-0 rounded-sm bg-amber-soft px-2 py-1 text-ink"
          role="status"
          title="The words of these messages are not in the index yet: what is found is incomplete"
        >
          {countText(wordsLeft)} not searched yet
        </span>
      )}
      {link === "away" && (
        <span role="status" className="shrink-0 rounded-sm bg-amber-soft px-2 py-1 text-ink">
          {awayWhy === null ? "server away" : "not stored"}
          {waiting > 0 ? `, ${waiting} waiting` : ""}
        </span>
      )}
    </>
  );
}

function PassButton({ className }: { readonly className: string }) {
  return (
    <button
      type="button"
      onClick={startPass}
      title="Go through the list, or what is selected, one message at a time (P)"
      className={`${BUTTON} ${className}`}
    >
      pass
    </button>
  );
}

/** How many are listed or selected, and how the list is arranged. What does not fit is pushed sideways; on a phone it is a row of its own. */
function Arranged() {
  const selected = useView((v) => v.selected);
  const matches = useView((v) => v.matches);
  const order = useView((v) => v.order);
  const group = useView((v) => v.group);
  const decided = useView(countDecided);
  const notDone = useView((v) => v.notDone.size);
  const opened = useView((v) => v.opened);
  // A thumb has no keys for selecting, so with a selection its row is about that.
  const rest = selected > 0 ? "max-md:hidden" : "";
  return (
    <div
      className={`-mx-1 -my-1 flex min-w-0 items-center gap-2 overflow-x-auto p-1 [scrollbar-width:none] max-md:w-full ${opened ? "max-md:hidden" : ""}`}
    >
      {decided > 0 && (
        <button
          type="button"
          onClick={settle}
          title="Let go of what is decided (Backspace)"
          className={`${BUTTON} ${rest}`}
        >
          settle {countText(decided)}
        </button>
      )}
      {notDone > 0 && (
        <button
          type="button"
          onClick={focusNotDone}
          title="Go to the first that was not done"
          className={`${BUTTON} font-bold text-brick ${rest}`}
        >
          {countText(notDone)} not done
        </button>
      )}
      <span className="shrink-0 max-md:mr-auto" data-testid="count">
        {selected > 0 ? `${countText(selected)} of ${countText(matches)} selected` : countText(matches)}
        {selected === 0 && (
          <span className={decided + notDone > 0 ? "max-[1099px]:sr-only" : ""}>
            {matches === 1 ? " message" : " messages"}
          </span>
        )}
      </span>
      {selected > 0 && (
        <>
          <button
            type="button"
            onClick={() => set({ dialog: { kind: "select-by" } })}
            className={`${BUTTON} md:hidden`}
          >
            select by…
          </button>
          <button type="button" onClick={tickAll} className={`${BUTTON} md:hidden`}>
            all
          </button>
          <button type="button" onClick={clearTicks} className={`${BUTTON} md:hidden`}>
            clear
          </button>
        </>
      )}
      <PassButton className="max-md:hidden" />
      <button
        type="button"
        onClick={() => set({ dialog: { kind: "form" } })}
        title="Narrow by a form (Ctrl+/)"
        className={`${BUTTON} ${rest}`}
      >
        form
      </button>
      <button
        type="button"
        onClick={() => set({ dialog: { kind: "arrange" } })}
        title="Order and group the list (Shift+\)"
        className={`${BUTTON} max-w-52 truncate ${rest}`}
      >
        {ORDER_TEXT[order]}
        {group !== "none" && `, groups by ${group}`}
      </button>
      <ExportMenu />
    </div>
  );
}

/** The narrow line: the place, the conditions, where the next one is typed, and how the list is arranged. */
export function Line() {
  return (
    <div className="relative flex min-h-[46px] shrink-0 items-center gap-2 border-b border-rule bg-paper px-3.5 font-mono text-[12.5px] whitespace-nowrap max-md:flex-wrap max-md:py-1.5">
      <button
        type="button"
        onClick={() => set({ rackOpen: true })}
        className={`${BUTTON} md:hidden`}
        aria-label="Places"
      >
        ≡
      </button>
      <Chips />
      <NarrowInput />
      <Waiting />
      <PassButton className="ml-auto md:hidden" />
      <Arranged />
    </div>
  );
}
