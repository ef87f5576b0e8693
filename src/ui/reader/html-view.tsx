"use client";
import { useEffect, useMemo, useRef, useState } from "react";
import type { Message } from "@/core/api";
import { foldQuotes, markIn, passKeysOn, passTouchesOn, zoom } from "./in-frame";
import { safePage } from "./safe-html";

interface Props {
  readonly message: Message;
  /** What is marked in it, folded. */
  readonly sought: readonly string[];
  readonly textPx: number;
}

/** A message's HTML in its frame, as tall as its content. */
export function HtmlView({ message, sought, textPx }: Props) {
  const [showRemote, setShowRemote] = useState(false);
  const [height, setHeight] = useState(200);
  const [ready, setReady] = useState<Document | null>(null);
  const frame = useRef<HTMLIFrameElement>(null);
  const size = useRef(textPx);
  const page = useMemo(() => {
    const inline = new Map(
      message.files.flatMap((file) => (file.contentId ? [[file.contentId, file.index] as const] : [])),
    );
    return safePage(message.html ?? "", {
      message: message.id,
      inline,
      showRemote,
      night: document.documentElement.dataset.theme === "night",
    });
  }, [message, showRemote]);

  useEffect(() => {
    const element = frame.current;
    if (!element) return;
    let observer: ResizeObserver | null = null;
    const loaded = () => {
      const inside = element.contentDocument;
      if (!inside?.body) return;
      const measure = () => {
        zoom(inside, size.current);
        setHeight(Math.min(200_000, inside.documentElement.scrollHeight));
      };
      measure();
      observer = new ResizeObserver(measure);
      observer.observe(inside.body);
      foldQuotes(inside);
      passKeysOn(inside);
      passTouchesOn(inside, element);
      setReady(inside);
    };
    element.addEventListener("load", loaded);
    return () => {
      element.removeEventListener("load", loaded);
      observer?.disconnect();
    };
  }, [page]);

  useEffect(() => {
    if (ready?.body) markIn(ready, sought);
  }, [ready, sought]);
  useEffect(() => {
    size.current = textPx;
    if (ready?.body) zoom(ready, textPx);
  }, [ready, textPx]);

  return (
    <>
      {page.blocked > 0 && !showRemote && (
        <p className="mt-2 flex flex-wrap items-center gap-2 rounded-md bg-amber-soft px-3 py-1.5 text-[13px]">
          {page.blocked === 1 ? "One picture from elsewhere was" : `${page.blocked} pictures from elsewhere were`} not
          fetched.
          <button
            type="button"
            onClick={() => setShowRemote(true)}
            className="rounded-sm border border-rule bg-sheet px-2 py-0.5"
          >
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
        style={{ height }}
        className="mt-2 w-full border-0"
      />
    </>
  );
}
