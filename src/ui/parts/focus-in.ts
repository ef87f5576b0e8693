import { useEffect, useRef, useState, type RefObject } from "react";

interface Held<K> {
  readonly key: K | null;
  /** Where it stood when it was seen last. */
  readonly place: number;
  readonly isChosen: boolean;
  /** What has just been made may be chosen before it is listed. */
  readonly wasSeen: boolean;
}

/**
 * What of a list has the focus. It is held by what it is, not by where it stands: whatever comes before it or goes, from
 * this window or another, the next key means what was seen. What is gone gives way to what stands in its place.
 * @param keys what is listed, in order
 * @param first what has it to begin with, which may never be listed; null for the first
 */
export function useFocusIn<K>(keys: readonly K[], first: K | null = null) {
  const [held, setHeld] = useState<Held<K>>({
    key: first,
    place: 0,
    isChosen: first !== null,
    wasSeen: first === null,
  });
  const at = held.key === null ? -1 : keys.indexOf(held.key);
  const place = at >= 0 ? at : Math.max(0, Math.min(held.place, keys.length - 1));
  const isChosen = at >= 0 && held.isChosen;
  const isKept = at >= 0 ? held.wasSeen && held.place === at : !held.wasSeen || keys.length === 0;
  if (!isKept) setHeld({ key: keys[place]!, place, isChosen, wasSeen: true });
  /** So many further on, as far as there are any. */
  const move = (by: number): void => {
    const from = at < 0 && !held.wasSeen ? -1 : place;
    const next = Math.max(0, Math.min(keys.length - 1, from + by));
    if (keys.length > 0) setHeld({ key: keys[next]!, place: next, isChosen: true, wasSeen: true });
  };
  return {
    /** What it is: also what is not listed yet; null where nothing is. */
    key: at < 0 && !held.wasSeen ? held.key : (keys[place] ?? null),
    /** Where it stands; 0 where nothing is listed. */
    place,
    /** Whether a person chose it; otherwise it came to have the focus by itself. */
    isChosen,
    /** Null for the first, as it was to begin with. */
    choose: (key: K | null) =>
      setHeld({ key, place: key === null ? 0 : place, isChosen: key !== null, wasSeen: key === null }),
    move,
    /** What the keys of the frame do that lead through a list. */
    moves: {
      next: () => move(1),
      previous: () => move(-1),
      first: () => move(-Infinity),
      last: () => move(Infinity),
    },
  };
}

/** Brings a row that comes to have the focus in sight. */
export function useInSight<E extends Element>(hasFocus: boolean): RefObject<E | null> {
  const row = useRef<E>(null);
  useEffect(() => {
    if (hasFocus) row.current?.scrollIntoView({ block: "nearest" });
  }, [hasFocus]);
  return row;
}
