"use client";
import dynamic from "next/dynamic";
import { useEffect, useLayoutEffect } from "react";
import { Deck } from "../deck/deck";
import { LedgerStrip } from "../deck/ledger-strip";
import { Foresight } from "../foresight/foresee";
import { holdKeys, letKeysGo } from "../input/held-keys";
import { useBackGesture } from "../parts/back-gesture";
import { useNarrowScreen, useTightScreen } from "../parts/narrow-screen";
import { Notice } from "../parts/notice";
import { PassView } from "../pass/pass";
import { PassBar } from "../pass/pass-bar";
import { PracticeBar } from "../practice/practice-bar";
import { Reader } from "../reader/reader";
import { closeComposer } from "../state/compose";
import { useView } from "../state/store";
import { provide, undo } from "./commands";
import { HoursBar } from "./hours-bar";
import { KeepBar } from "./keep-bar";
import { Line } from "./line";
import { List } from "./list";
import { RecordingBar } from "./recording-bar";
import { useBenchKeys } from "./use-bench-keys";

const composer = () => import("../compose/composer");
const Composer = dynamic(() => composer().then((part) => part.Composer), { ssr: false });
const LOAD_AFTER_MS = 1500;

/** Where list and reader stand. */
const ARRANGED = {
  right: "md:grid-cols-[minmax(0,1fr)_minmax(280px,418px)]",
  below: "grid-rows-[minmax(0,2fr)_minmax(0,3fr)]",
  off: "",
} as const;
/** At the right of a list of tall rows, where there is no more room. */
const HALVES = "md:grid-cols-2";

/** The main screen: list, reader, deck. */
export function Bench() {
  const opened = useView((v) => v.opened);
  const composing = useView((v) => v.composing);
  const pass = useView((v) => v.pass);
  const phone = useNarrowScreen();
  const tight = useTightScreen();
  useBackGesture(phone);
  const layer = useBenchKeys();
  const foreseen = useView((v) => v.foreseen);
  const where = useView((v) => v.readerPlace);
  // On a phone, or with the reader off, one thing is shown at a time.
  const single = phone || where === "off";
  useEffect(() => provide({ coversList: () => single }), [single]);
  const reading = single && opened;
  const halves = tight && where === "right";
  const letter = composing?.key ?? null;
  // Before its field can be there, which lets them go; a letter that is closed before is not waited for.
  useLayoutEffect(() => {
    if (letter === null) return;
    holdKeys("letter", closeComposer);
    return () => letKeysGo("letter");
  }, [letter]);
  useEffect(() => {
    // The first letter is there as fast as the next.
    const timer = setTimeout(() => void composer(), LOAD_AFTER_MS);
    return () => clearTimeout(timer);
  }, []);
  return (
    <div className="grid h-full min-w-0 grid-cols-[minmax(0,1fr)] grid-rows-[1fr_auto_auto]">
      <main id="main" className="flex min-h-0 min-w-0 flex-col">
        {pass ? <PassBar pass={pass} /> : <Line />}
        <RecordingBar />
        <KeepBar />
        <HoursBar />
        <PracticeBar />
        {pass && !composing ? (
          <PassView pass={pass} />
        ) : (
          <div className={`grid min-h-0 flex-1 ${single ? "" : halves ? HALVES : ARRANGED[where]}`}>
            {!reading && !(single && composing) && (
              <div
                className={`min-h-0 print:hidden ${single ? "" : where === "below" ? "border-b border-rule" : "border-r border-rule"}`}
              >
                <List look={phone || halves ? "tall" : "wide"} />
              </div>
            )}
            {(!single || reading || composing) &&
              (composing ? <Composer key={composing.key} composing={composing} /> : <Reader />)}
          </div>
        )}
      </main>
      {foreseen && <Foresight macro={foreseen} />}
      <aside
        aria-label="What was done"
        className="isolate flex items-center gap-3 border-t border-rule bg-paper px-3.5 py-1 print:hidden"
      >
        <Notice testId="notice" className="min-w-0 flex-1 text-[14px]" hasUndo />
        <button
          type="button"
          // What is being written is left or thrown away by its own buttons.
          hidden={composing !== null}
          onClick={undo}
          className="shrink-0 rounded-sm border border-edge bg-sheet px-3 py-1.5 text-[13px] font-semibold md:hidden"
        >
          Undo
        </button>
      </aside>
      <footer
        hidden={single && composing !== null}
        className="print:hidden [&:not([hidden])]:grid border-t-2 border-ink bg-well min-[1200px]:grid-cols-[minmax(0,746px)_1fr]"
      >
        <Deck layer={layer} />
        <LedgerStrip />
      </footer>
    </div>
  );
}
