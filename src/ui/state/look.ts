import { notify, set, view, type ReaderPlace } from "./store";

/** How the window looks: kept in the browser, since a desk and a phone differ. */
const KEY = "tachyne-look";
const PLACES: readonly ReaderPlace[] = ["right", "below", "off"];
const SIZES_PX = [12, 13, 14, 15, 17, 19, 22, 26] as const;
const USUAL_SIZE = 3;
export const USUAL_TEXT_PX = SIZES_PX[USUAL_SIZE];

interface Kept {
  readonly reader: ReaderPlace;
  readonly size: number;
}

function keep(): void {
  const { readerPlace: reader, textSize: size } = view();
  localStorage.setItem(KEY, JSON.stringify({ reader, size } satisfies Kept));
}

/** What the browser kept; anything else leaves what is usual. */
export function readLook(): void {
  try {
    const kept = JSON.parse(localStorage.getItem(KEY) ?? "{}") as Partial<Kept>;
    const readerPlace = PLACES.find((place) => place === kept.reader) ?? "right";
    const size = kept.size ?? USUAL_SIZE;
    set({ readerPlace, textSize: SIZES_PX[size] === undefined ? USUAL_SIZE : size });
  } catch {
    set({ readerPlace: "right", textSize: USUAL_SIZE });
  }
}

const PLACE_TEXT = { right: "at the right", below: "below the list", off: "off: Enter opens a message" } as const;

export function moveReader(): void {
  const next = PLACES[(PLACES.indexOf(view().readerPlace) + 1) % PLACES.length]!;
  set({ readerPlace: next, ...(next === "off" ? { opened: false } : {}) });
  keep();
  notify(`The reader is ${PLACE_TEXT[next]}.`);
}

export const textPx = (size: number): number => SIZES_PX[size] ?? USUAL_TEXT_PX;

export function changeTextSize(by: 1 | -1): void {
  const next = Math.max(0, Math.min(SIZES_PX.length - 1, view().textSize + by));
  set({ textSize: next });
  keep();
  notify(`Text of messages: ${textPx(next)} px.`);
}
