import { useEffect, useState } from "react";
import { useQuery } from "@tanstack/react-query";
import type { Message } from "@/core/api";
import { lastRead, message, reads } from "../state/reads";

export type Reading =
  | { readonly phase: "none" }
  | { readonly phase: "coming"; readonly id: number }
  | { readonly phase: "here"; readonly message: Message }
  | { readonly phase: "failed"; readonly id: number; readonly why: string };

const AWAY = "The server is away. The message is read as soon as it is back.";
const NONE = { id: -1, stamp: 0 };

/** A held key passes over messages; only the one it stops at is read. */
const SETTLE_MS = 60;
/** What is next is read ahead, after what is looked at. */
const AHEAD_MS = 4 * SETTLE_MS;

/**
 * The message with that id, read when the focus has stayed on it for a moment. Nothing is asked of the store of
 * reads for those that are passed over: a held key has no time for it.
 * @param stamp changes when what was read before may be old
 */
export function useMessage(id: number | null, stamp: number): Reading {
  const [settled, setSettled] = useState(NONE);
  useEffect(() => {
    if (id === null) return;
    const timer = setTimeout(() => setSettled({ id, stamp }), SETTLE_MS);
    return () => clearTimeout(timer);
  }, [id, stamp]);
  const { data, error, failureCount, refetch } = useQuery({
    ...message(settled.id, settled.stamp),
    enabled: settled !== NONE,
  });
  useEffect(() => {
    if (data && data.stamp !== settled.stamp) void refetch();
  }, [data, settled, refetch]);
  if (id === null) return { phase: "none" };
  const known = lastRead(id);
  if (known) return { phase: "here", message: known };
  if (settled.id !== id) return { phase: "coming", id };
  if (error) return { phase: "failed", id, why: error.message };
  return failureCount > 0 ? { phase: "failed", id, why: AWAY } : { phase: "coming", id };
}

/** Reads the next message ahead, so that it is there when the focus comes to it. */
export function useReadAhead(id: number | null, stamp: number): void {
  useEffect(() => {
    if (id === null) return;
    const timer = setTimeout(() => void reads.prefetchQuery({ ...message(id, stamp), retry: false }), AHEAD_MS);
    return () => clearTimeout(timer);
  }, [id, stamp]);
}
