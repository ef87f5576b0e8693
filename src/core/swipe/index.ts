/**
 * A finger on a row: pointer samples in, what letting go would do out. Pure: the caller gives the clock.
 *
 * First match wins, for a finger that has moved:
 *   scroll   it moved more down than across before it was taken for a swipe: the list's, to the end
 *   none     it has not come far enough, or slid back
 *   long     past the far threshold, or let go in a fast flick that way
 *   short    past the near threshold
 */
export const SWIPES = ["right-short", "right-long", "left-short", "left-long"] as const;
export type Swipe = (typeof SWIPES)[number];

export interface Sample {
  readonly xPx: number;
  readonly yPx: number;
  readonly tMs: number;
}

export type Finger =
  | { readonly phase: "up" }
  /** Down, and not yet known to be a swipe. */
  | { readonly phase: "down"; readonly start: Sample }
  /** Across: the row follows. `trail` is the last moments, for the speed of a flick. */
  | { readonly phase: "across"; readonly start: Sample; readonly trail: readonly Sample[] }
  | { readonly phase: "scroll" };

export const UP: Finger = { phase: "up" };

/** Less than this is a tap with a trembling hand. */
export const STARTS_PX = 10;
/** Shares of the row's width past which letting go runs the short, and the long swipe. */
export const SHORT_SHARE = 0.18;
export const LONG_SHARE = 0.5;
/** Faster than this in the direction it moved counts as long, however far it came past the start. */
export const FLICK_PX_PER_MS = 0.9;
/** How much of the trail a flick's speed is measured over. */
const TRAIL_MS = 80;

export interface Seen {
  readonly finger: Finger;
  /** How far the row is to one side: right is positive. */
  readonly offsetPx: number;
  /** What letting go now would do, the speed left aside. */
  readonly shows: Swipe | null;
}

const swipeFor = (offsetPx: number, long: boolean): Swipe =>
  `${offsetPx > 0 ? "right" : "left"}-${long ? "long" : "short"}`;

function shownAt(offsetPx: number, widthPx: number): Swipe | null {
  const share = Math.abs(offsetPx) / widthPx;
  if (share < SHORT_SHARE) return null;
  return swipeFor(offsetPx, share >= LONG_SHARE);
}

export const fingerDown = (sample: Sample): Finger => ({ phase: "down", start: sample });

/** @param widthPx of the row */
export function fingerMoved(finger: Finger, sample: Sample, widthPx: number): Seen {
  if (finger.phase === "up" || finger.phase === "scroll") return { finger, offsetPx: 0, shows: null };
  const dx = sample.xPx - finger.start.xPx;
  const dy = sample.yPx - finger.start.yPx;
  if (finger.phase === "down") {
    if (Math.max(Math.abs(dx), Math.abs(dy)) < STARTS_PX) return { finger, offsetPx: 0, shows: null };
    if (Math.abs(dy) >= Math.abs(dx)) return { finger: { phase: "scroll" }, offsetPx: 0, shows: null };
  }
  const before = finger.phase === "across" ? finger.trail : [finger.start];
  const trail = [...before.filter((old) => sample.tMs - old.tMs <= TRAIL_MS), sample];
  return { finger: { phase: "across", start: finger.start, trail }, offsetPx: dx, shows: shownAt(dx, widthPx) };
}

/** What letting go does: null where it does nothing. */
export function fingerUp(finger: Finger, sample: Sample, widthPx: number): Swipe | null {
  if (finger.phase !== "across") return null;
  const dx = sample.xPx - finger.start.xPx;
  const first = finger.trail[0]!;
  const speed = (sample.xPx - first.xPx) / Math.max(1, sample.tMs - first.tMs);
  if (Math.abs(dx) >= STARTS_PX && speed * Math.sign(dx) >= FLICK_PX_PER_MS) return swipeFor(dx, true);
  return shownAt(dx, widthPx);
}

/**
 * Two fingers on a trackpad, across a row: small pushes that come without an end, so that the end is their silence.
 *
 *   scroll   the first pushes went more down than across: the list's, until they cease
 *   across   the row follows; what it has come to when they cease is done
 */
export type Wheel =
  | { readonly phase: "rest" }
  | { readonly phase: "across"; readonly offsetPx: number; readonly atMs: number }
  | { readonly phase: "scroll"; readonly atMs: number };

export const RESTING: Wheel = { phase: "rest" };
/** Pushes further apart than this do not belong together. */
export const SILENCE_MS = 180;

export interface Push {
  /** As wheel events have them: positive to the right and down, which moves what is looked at the other way. */
  readonly dxPx: number;
  readonly dyPx: number;
  readonly tMs: number;
}

/** @param widthPx of the row */
export function wheelPushed(
  wheel: Wheel,
  { dxPx, dyPx, tMs }: Push,
  widthPx: number,
): Omit<Seen, "finger"> & { wheel: Wheel } {
  const goesOn = wheel.phase !== "rest" && tMs - wheel.atMs <= SILENCE_MS;
  const before: Wheel = goesOn ? wheel : RESTING;
  if (before.phase === "scroll" || (before.phase === "rest" && Math.abs(dyPx) >= Math.abs(dxPx)))
    return { wheel: { phase: "scroll", atMs: tMs }, offsetPx: 0, shows: null };
  const sum = (before.phase === "across" ? before.offsetPx : 0) - dxPx;
  const offsetPx = Math.max(-widthPx, Math.min(widthPx, sum));
  return { wheel: { phase: "across", offsetPx, atMs: tMs }, offsetPx, shows: shownAt(offsetPx, widthPx) };
}

/** What the silence after the last push does: null where it does nothing. */
export const wheelRested = (wheel: Wheel, widthPx: number): Swipe | null =>
  wheel.phase === "across" ? shownAt(wheel.offsetPx, widthPx) : null;
