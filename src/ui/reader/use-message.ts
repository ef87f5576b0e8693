import { useEffect, useRef, useState } from "react";
import { useQuery } from "@tanstack/react-query";
import type { Message } from "@/core/api";
import { afterPaint } from "../state/after-paint";
import { lastRead, message, reads } from "../state/reads";
import { mailbox, useView } from "../state/store";

export type Reading =
  | { readonly phase: "none" }
  | { readonly phase: "coming"; readonly id: number }
  | { readonly phase: "here"; readonly message: Message }
  | { readonly phase: "failed"; readonly id: number; readonly why: string };

const AWAY = "The server is away. The message is read as soon as it is back.";
/** Changes when what hangs on a message may have: tasks made from it, and how long its folder keeps it. */
export function stampOf(id: number | null, tasks: number): number {
  const row = id === null ? undefined : mailbox.rowOf(id);
  return tasks * 2 ** 20 + (row === undefined ? 0 : mailbox.columns.folder[row]!);
}

const NONE = { id: -1, stamp: 0 };

/** Moves closer together than this pass over messages, as a held key does: only the one they stop at is read. */
const PASSES_MS = 100;
/** What is next is read ahead, after what is looked at. */
const AHEAD_MS = 240;

/**
 * The message with that id: read as soon as the list is painted with it, or once the focus rests where it moves too fast
 * for that. Nothing is asked of the store of reads for those that are passed over: a held key has no time for it.
 * @param stamp changes when what was read before may be old
 */
export function useMessage(id: number | null, stamp: number): Reading {
  const [settled, setSettled] = useState(NONE);
  const movedMs = useRef(-Infinity);
  useEffect(() => {
    if (id === null) return;
    const now = performance.now();
    const passes = now - movedMs.current < PASSES_MS;
    movedMs.current = now;
    const settle = () => setSettled({ id, stamp });
    if (!passes) return afterPaint(settle);
    const timer = setTimeout(settle, PASSES_MS);
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

/** Those about the focus of a pass are read at once: decided, the next one is there with its text, also after a jump. */
const AHEAD = 5;
const BEHIND = 2;

/** @param isOn whether one goes from message to message here */
export function useReadAround(isOn: boolean): void {
  const listing = useView((v) => v.listing);
  const focus = useView((v) => v.focus);
  const tasks = useView((v) => v.home?.tasks ?? 0);
  useEffect(() => {
    if (!isOn) return;
    const steps = Array.from({ length: AHEAD + BEHIND }, (_, i) => (i < AHEAD ? i + 1 : AHEAD - 1 - i));
    const timer = setTimeout(() => {
      for (const step of steps) {
        const row = listing.items[focus + step];
        if (row === undefined || row < 0) continue;
        const id = mailbox.idAt(row);
        if (lastRead(id) === undefined) void reads.prefetchQuery({ ...message(id, stampOf(id, tasks)), retry: false });
      }
    }, PASSES_MS);
    return () => clearTimeout(timer);
  }, [isOn, listing, focus, tasks]);
}
