/** A place in a listing: after, or before, the message with this date and id. */
export interface Place {
  readonly dateMs: number;
  readonly id: number;
}

export const writePlace = (place: Place): string => `${place.dateMs}.${place.id}`;

/** @returns null when the text is no place */
export function readPlace(text: string): Place | null {
  const found = /^(-?\d{1,15})\.(\d{1,15})$/.exec(text);
  return found ? { dateMs: Number(found[1]), id: Number(found[2]) } : null;
}
