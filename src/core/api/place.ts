/** A place in a listing: after, or before, the message with this date and id. */
export interface Place {
  readonly dateMs: number;
  readonly id: number;
}

export const writePlace = (place: Place): string => `${place.dateMs}.${place.id}`;

/** No message is dated further from 1970 than what a calendar of four-digit years holds. */
const FURTHEST_MS = 253_402_300_799_999;

/** @returns null when the text is no place */
export function readPlace(text: string): Place | null {
  const found = /^(-?\d{1,15})\.(\d{1,15})$/.exec(text);
  if (!found) return null;
  const place = { dateMs: Number(found[1]), id: Number(found[2]) };
  return Math.abs(place.dateMs) <= FURTHEST_MS ? place : null;
}
