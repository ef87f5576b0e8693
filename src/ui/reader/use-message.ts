import { useEffect, useState } from "react";
import type { Message } from "@/core/api";
import { Away, get } from "../state/api";

/** A held key passes over messages; only the one it stops at is read. */
const SETTLE_MS = 60;
const KEPT = 200;
const RETRY_MS = 2000;

const cache = new Map<number, Message>();

function keep(message: Message): void {
  cache.delete(message.id);
  cache.set(message.id, message);
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

/** The message with that id, read when the focus has stayed on it for a moment. */
export function useMessage(id: number | null): Reading {
  const [reading, setReading] = useState<Reading>({ phase: "none" });
  useEffect(() => {
    if (id === null || cache.has(id)) return;
    let over = false;
    let timer: ReturnType<typeof setTimeout> | undefined;
    const fetchIt = () =>
      get<Message>(`/messages/${id}`).then(
        (message) => {
          keep(message);
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
  }, [id]);
  if (id === null) return { phase: "none" };
  const known = cache.get(id);
  if (known) return { phase: "here", message: known };
  return reading.phase === "failed" && reading.id === id ? reading : { phase: "coming", id };
}

/** Reads the next message ahead, so that it is there when the focus comes to it. */
export function useReadAhead(id: number | null): void {
  useEffect(() => {
    if (id === null || cache.has(id)) return;
    const timer = setTimeout(() => void get<Message>(`/messages/${id}`).then(keep, () => undefined), 4 * SETTLE_MS);
    return () => clearTimeout(timer);
  }, [id]);
}
