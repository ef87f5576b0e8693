"use client";
import { HeaderNotice } from "../parts/notice";
import { useScreenKeys } from "../parts/screen-keys";
import { redoLast, undoLast } from "../state/edits";
import { Blocked } from "./blocked";
import { Filing } from "./filing";
import { Folders } from "./folders";
import { Habits } from "./habits";
import { Identities } from "./identities";
import { PracticeOffer } from "../practice/practice-bar";
import { Keeping } from "./keeping";
import { KeptHere } from "./kept-here";
import { Labels } from "./labels";
import { Markers } from "./markers";
import { Service } from "./service";
import { Writing } from "./writing";

/** Where mail can be and what can be put on it. Everything takes effect at once; what moves mail can be undone. */
export function PlacesScreen() {
  useScreenKeys({ undo: () => void undoLast(), redo: () => void redoLast() });
  return (
    <main id="main" className="flex h-full flex-col" data-ready>
      <header className="flex min-h-[46px] items-center gap-3 border-b border-rule px-3.5">
        <h1 className="text-[15px] font-bold">Places</h1>
        <HeaderNotice />
      </header>
      <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)] content-start gap-x-8 gap-y-6 overflow-y-auto px-3.5 py-3 lg:grid-cols-2">
        <Folders />
        <div className="grid min-w-0 grid-cols-[minmax(0,1fr)] content-start gap-6">
          <Labels />
          <Markers />
          <Habits />
          <Filing />
          <Writing />
          <Identities />
          <Keeping />
          <KeptHere />
          <section aria-labelledby="practice-title" className="grid gap-1.5 text-[13px]">
            <h2 id="practice-title" className="text-[13px] font-bold">
              Practice
            </h2>
            <PracticeOffer always />
          </section>
          <Blocked />
          <Service />
        </div>
      </div>
    </main>
  );
}
