import * as z from "zod";
import { isStorable } from "../text";

/** The parts that the shapes of the API are made of, each once: a text, an id, a time, a count. */

/** A text as it can be kept, of at most so many UTF-16 units. */
export const text = (most: number, least = 0) =>
  z
    .string()
    .min(least, least === 1 ? "write something" : undefined)
    .max(most, `use at most ${most} characters`)
    .refine(isStorable, "it holds a character that cannot be kept: NUL, or half of a pair");

/** Of what is counted in eight bytes: messages, tasks, threads. */
export const longId = z.number().int().positive();

/** The largest number of a column of four bytes. */
export const LARGEST_INT = 2_147_483_647;
/** Of what is counted in four bytes: folders, labels, macros, batches. */
export const shortId = z.number().int().positive().max(LARGEST_INT);

export const count = z.number().int().min(0).max(LARGEST_INT);

/** Of what is deleted by hand: changes it back into what it was, under its own number. */
export const broughtBack = z.literal(false).describe("brings it back as it was, where it was deleted");

/** Times that people mean and every part of the app can hold. */
const [FIRST_YEAR, LAST_YEAR] = [1900, 9999];

/** An instant, ISO 8601 with an offset or Z. */
export const time = z.iso.datetime({ offset: true }).refine((iso) => {
  const year = new Date(iso).getUTCFullYear();
  return year >= FIRST_YEAR && year <= LAST_YEAR;
}, `a time is between the years ${FIRST_YEAR} and ${LAST_YEAR}`);
