"use client";
import { QueryClientProvider } from "@tanstack/react-query";
import { usePathname } from "next/navigation";
import { useEffect, type ReactNode } from "react";
import { DropAnywhere } from "./agenda/drop-anywhere";
import { Reminders } from "./agenda/reminders";
import { AgendaStrip } from "./agenda/strip";
import { Dialogs } from "./bench/dialogs";
import { AsideBar } from "./aside/aside-bar";
import { arriveAt } from "./input/gone-to";
import { AwayBar, NewerBar } from "./offline/bars";
import { useAfterPaint } from "./parts/use-after-paint";
import { Rack } from "./rack/rack";
import { start, startAlone } from "./state/load";
import { readLook } from "./state/look";
import { keepPages } from "./state/pages";
import { reads } from "./state/reads";
import { SIGN_IN } from "./state/signed-in";
import { keepCounting } from "./state/tally";
import { set, useView } from "./state/store";

/** Where somebody comes in: nothing is loaded, and nothing stands around it. */
const isOutside = (path: string): boolean => path === SIGN_IN;
const isAlone = (path: string): boolean => path.startsWith("/message/") || path.startsWith("/compose");
/** The message that a window of its own is about; null in one for a letter. */
const messageIn = (path: string): number | null => Number(/^\/message\/(\d+)$/.exec(path)?.[1] ?? 0) || null;

let begun: "message" | "letter" | "all mail" | null = null;

/** The first loading of a window; one for a letter that goes on to another screen loads the rest then. */
function begin(path: string): void {
  if (isOutside(path)) return readLook();
  const alone = isAlone(path);
  if (begun === "all mail" || (alone && begun !== null)) return;
  if (begun === null) {
    readLook();
    keepPages();
  }
  if (alone) {
    const message = messageIn(path);
    begun = message === null ? "letter" : "message";
    return void startAlone(message);
  }
  if (begun === "letter") set({ phase: "loading", loading: 0 });
  begun = "all mail";
  keepCounting();
  void start();
}

// Mail is read while the screen is still being brought to life, which takes as long.
if (typeof window !== "undefined") begin(location.pathname);

/** What is said, for those who hear it. By itself: all that is around it is not made anew with each key that decides. */
function Announced() {
  const notice = useAfterPaint(useView((v) => v.notice?.text ?? ""));
  return (
    <p role="status" aria-live="polite" className="sr-only">
      {notice}
    </p>
  );
}

/** What every screen has: the rack, the dialogs, and the first loading. */
export function Shell({ children }: { readonly children: ReactNode }) {
  const phase = useView((v) => v.phase);
  const failure = useView((v) => v.failure);
  const path = usePathname();
  // A window of its own for one message has no places.
  const own = isAlone(path);
  useEffect(() => begin(path), [path]);
  // Behind what the screen itself does when it is there.
  useEffect(() => arriveAt(path), [path]);
  if (isOutside(path)) return children;
  return (
    <QueryClientProvider client={reads}>
      <div className="flex h-full print:block print:h-auto">
        <a
          href="#main"
          className="sr-only z-50 rounded-md bg-ink px-3 py-2 text-paper focus:not-sr-only focus:absolute focus:top-2 focus:left-2"
        >
          To the main part
        </a>
        <a
          hidden={own}
          href="#places"
          className="sr-only z-50 rounded-md bg-ink px-3 py-2 text-paper focus:not-sr-only focus:absolute focus:top-2 focus:left-2"
        >
          To the places
        </a>
        <Announced />
        {!own && <Rack />}
        <div className="flex min-w-0 flex-1 flex-col print:block">
          {/* They come by themselves: under what is shown, nothing moves away from under a hand. A thumb has its pads there. */}
          <div className="shrink-0 md:order-last">
            <AsideBar />
            <AwayBar />
            <NewerBar />
          </div>
          {phase === "ready" && <DropAnywhere />}
          {phase === "ready" && !own && <Reminders />}
          {phase === "ready" && path === "/" && <AgendaStrip />}
          {phase === "ready" ? (
            <div className="min-h-0 flex-1">{children}</div>
          ) : (
            <main id="main" className="grid min-h-0 flex-1 place-items-center p-6">
              {phase === "loading" ? (
                <p role="status">Reading your mail…</p>
              ) : (
                <div role="alert" className="max-w-md rounded-md bg-brick-soft p-4">
                  <h1 className="font-bold">Tachyne cannot show your mail</h1>
                  <p className="mt-1">{failure} It is tried again every few seconds.</p>
                </div>
              )}
            </main>
          )}
        </div>
        {phase === "ready" && <Dialogs />}
      </div>
    </QueryClientProvider>
  );
}
