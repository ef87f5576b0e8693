import { useEffect, useState } from "react";
import type { Message } from "@/core/api";
import { Away, get } from "../state/api";

/** A held key passes over messages; only the one it stops at is read. */
const SETTLE_MS = 60;
const KEPT = 200;
const RETRY_MS = 2000;

/** A message never changes, but what hangs on it does: the stamp says as of when it was read. */
const cache = new Map<number, { readonly message: Message; readonly stamp: number }>();
const isFresh = (id: number, stamp: number): boolean => cache.get(id)?.stamp === stamp;

function keep(message: Message, stamp: number): void {
  cache.delete(message.id);
  cache.set(message.id, { message, stamp });
  for (const id of cache.keys()) {
    if (cache.size <= KEPT) break;
    cache.delete(id);
  }
}

export type Reading =
  | { readonly phase: "none" }
  | { readonly phase: "coming"; readonly id: number }
  | { readonly phase: "here"; readonly message: Message }
  | { readonly phase: "failed"; readonly id: number; readonly why: string };

/**
 * The message with that id, read when the focus has stayed on it for a moment.
 * @param stamp changes when what was read before may be old
 */
export function useMessage(id: number | null, stamp: number): Reading {
  const [reading, setReading] = useState<Reading>({ phase: "none" });
  useEffect(() => {
    if (id === null || isFresh(id, stamp)) return;
    let over = false;
    let timer: ReturnType<typeof setTimeout> | undefined;
    const fetchIt = () =>
      get<Message>(`/messages/${id}`).then(
        (message) => {
          keep(message, stamp);
          if (!over) setReading({ phase: "here", message });
        },
        (error: Error) => {
          if (over) return;
          const away = error instanceof Away;
          const why = away ? "The server is away. The message is read as soon as it is back." : error.message;
          setReading({ phase: "failed", id, why });
          if (away) timer = setTimeout(fetchIt, RETRY_MS);
        },
      );
    timer = setTimeout(fetchIt, SETTLE_MS);
    return () => {
      over = true;
      clearTimeout(timer);
    };
  }, [id, stamp]);
  if (id === null) return { phase: "none" };
  const known = cache.get(id)?.message;
  if (known) return { phase: "here", message: known };
  return reading.phase === "failed" && reading.id === id ? reading : { phase: "coming", id };
}

/** Reads the next message ahead, so that it is there when the focus comes to it. */
export function useReadAhead(id: number | null, stamp: number): void {
  useEffect(() => {
    if (id === null || isFresh(id, stamp)) return;
    const read = () =>
      get<Message>(`/messages/${id}`).then(
        (message) => keep(message, stamp),
        () => undefined,
      );
    const timer = setTimeout(() => void read(), 4 * SETTLE_MS);
    return () => clearTimeout(timer);
  }, [id, stamp]);
}
