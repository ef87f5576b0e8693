"use client";
import { useEffect, useMemo, useRef, useState } from "react";
import type { Message } from "@/core/api";
import { useTheme } from "../parts/use-theme";
import { foldQuotes, markIn, passKeysOn, passTouchesOn, zoom } from "./in-frame";
import { safePage, type SafePage } from "./safe-html";

interface Props {
  /** What is shown; null while nothing with HTML is. */
  readonly message: Message | null;
  /** What is marked in it, folded. */
  readonly sought: readonly string[];
  readonly textPx: number;
}

/**
 * The page that was last to be shown: it stays in its frame until there is another. Pictures from elsewhere are shown
 * when that is asked for, and until another page is: who comes back is asked again.
 */
function usePage(message: Message | null) {
  const [held, setHeld] = useState({ message, showRemote: false });
  const theme = useTheme();
  // Read again, it says the same: its page is not loaded anew.
  if (message !== null && (message.id !== held.message?.id || message.html !== held.message.html))
    setHeld({ message, showRemote: false });
  const page = useMemo((): SafePage | null => {
    const { message: last, showRemote } = held;
    if (last === null) return null;
    const inline = new Map(
      last.files.flatMap((file) => (file.contentId ? [[file.contentId, file.index] as const] : [])),
    );
    return safePage(last.html ?? "", {
      message: last.id,
      inline,
      showRemote,
      night: theme === "night",
    });
  }, [held, theme]);
  return { page, showRemote: held.showRemote, showPictures: () => setHeld({ ...held, showRemote: true }) };
}

interface Loaded {
  readonly page: SafePage;
  readonly inside: Document;
  readonly heightPx: number;
}

const TALLEST_PX = 200_000;

/**
 * A message's HTML in its frame, as tall as its content. The frame stays, and goes from page to page: to make one and
 * to drop the one before it takes the browser longer than everything else that a key does. What it holds is seen only
 * once it is the page that is meant.
 */
export function HtmlView({ message, sought, textPx }: Props) {
  const { page, showRemote, showPictures } = usePage(message);
  const [loaded, setLoaded] = useState<Loaded | null>(null);
  const frame = useRef<HTMLIFrameElement>(null);
  const size = useRef(textPx);

  useEffect(() => {
    const element = frame.current;
    if (!element || !page) return;
    // Keys are not for a page that goes.
    if (document.activeElement === element) element.blur();
    let observer: ResizeObserver | null = null;
    const take = () => {
      const inside = element.contentDocument;
      // The page before may have come late.
      if (!inside?.body || inside.documentElement.dataset.page !== page.key) return;
      zoom(inside, size.current);
      // A page is as tall as the frame it is in, or taller.
      const { height } = element.style;
      element.style.height = "0";
      const measured = inside.documentElement.scrollHeight;
      element.style.height = height;
      setLoaded({ page, inside, heightPx: Math.min(TALLEST_PX, measured) });
      observer?.disconnect();
      observer = new ResizeObserver(() => {
        zoom(inside, size.current);
        const heightPx = Math.min(TALLEST_PX, inside.documentElement.scrollHeight);
        setLoaded((now) => (now?.page === page && now.heightPx !== heightPx ? { ...now, heightPx } : now));
      });
      observer.observe(inside.body);
      foldQuotes(inside);
      passKeysOn(inside);
      passTouchesOn(inside, element);
    };
    element.addEventListener("load", take);
    return () => {
      element.removeEventListener("load", take);
      observer?.disconnect();
    };
  }, [page]);

  const isThere = message !== null && loaded !== null && loaded.page === page;
  const inside = isThere ? loaded.inside : null;
  useEffect(() => {
    if (inside?.body) markIn(inside, sought);
  }, [inside, sought]);
  useEffect(() => {
    size.current = textPx;
    if (inside?.body) zoom(inside, textPx);
  }, [inside, textPx]);

  if (!page) return null;
  return (
    <>
      {message !== null && page.blocked > 0 && !showRemote && (
        <p className="mt-2 flex flex-wrap items-center gap-2 rounded-md bg-amber-soft px-3 py-1.5 text-[13px]">
          {page.blocked === 1 ? "One picture from elsewhere was" : `${page.blocked} pictures from elsewhere were`} not
          fetched.
          <button type="button" onClick={showPictures} className="rounded-sm border border-rule bg-sheet px-2 py-0.5">
            Show pictures
          </button>
        </p>
      )}
      <iframe
        ref={frame}
        title="Message text"
        // No scripts; same origin only so that its height can be measured; links open in a new tab.
        sandbox="allow-same-origin allow-popups allow-popups-to-escape-sandbox"
        srcDoc={page.document}
        // What is beneath it moves once, when it is known how tall the next page is.
        style={{ height: message === null ? 0 : (loaded?.heightPx ?? 0) }}
        className={`w-full border-0 ${message === null ? "" : "mt-2"} ${isThere ? "" : "invisible"}`}
      />
    </>
  );
}
