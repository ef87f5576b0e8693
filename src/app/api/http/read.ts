import type { z } from "zod";
import { LARGEST_INT } from "@/core/api";
import { isTooDeep } from "@/core/macro";
import { unstorableAt } from "@/core/text";
import { Refusal } from "@/server/act";

/** Reading what a request says: never more of it than its route has use for. */

/** Bytes of a body, where a route says nothing else. */
export const USUAL_BODY = 256 * 1024;

const tooLarge = (most: number) =>
  new Refusal(413, "Too large", `The request's body may have at most ${Math.floor(most / 1024)} kB here.`);

/** The body's bytes, given up as soon as they are more than they may be. @throws Refusal (413) */
export async function bytesOf(request: Request, most: number): Promise<Uint8Array> {
  const announced = Number(request.headers.get("content-length") ?? 0);
  if (announced > most) throw tooLarge(most);
  const pieces: Uint8Array[] = [];
  let size = 0;
  for await (const piece of (request.body ?? []) as AsyncIterable<Uint8Array>) {
    size += piece.length;
    if (size > most) throw tooLarge(most);
    pieces.push(piece);
  }
  return Buffer.concat(pieces);
}

/** The body as text. @throws Refusal (413, 400) */
export async function textOf(request: Request, most: number): Promise<string> {
  const bytes = await bytesOf(request, most);
  try {
    return new TextDecoder("utf-8", { fatal: true }).decode(bytes);
  } catch {
    throw new Refusal(400, "Not UTF-8", "The request's body must be text in UTF-8.");
  }
}

function parsed(text: string): unknown {
  // Looked at before it is parsed, which for a deep nest would use up the stack.
  if (isTooDeep(text)) throw new Refusal(422, "The request does not fit", "The body is nested too deep.");
  try {
    return JSON.parse(text) as unknown;
  } catch {
    throw new Refusal(400, "Not JSON", "The request's body must be JSON.");
  }
}

/** What can only come from an escape, so that long lists of numbers are not walked for it. */
const SUSPECT = /\\u(?:0000|d[89a-f])/i;

function json(text: string): unknown {
  const raw = parsed(text);
  const at = SUSPECT.test(text) ? unstorableAt(raw) : null;
  if (at !== null)
    throw new Refusal(422, "The request does not fit", `${at || "body"}: it holds a character that cannot be kept.`);
  return raw;
}

/** The body as JSON of a shape. @throws Refusal */
export const body = async <T extends z.ZodType>(request: Request, shape: T, most = USUAL_BODY): Promise<z.infer<T>> =>
  checked(json(await textOf(request, most)), shape);

/** For requests whose body may be left out. */
export async function bodyOrNothing<T extends z.ZodType>(request: Request, shape: T): Promise<z.infer<T>> {
  const text = await textOf(request, USUAL_BODY);
  return checked(text.trim() === "" ? {} : json(text), shape);
}

export function checked<T extends z.ZodType>(raw: unknown, shape: T): z.infer<T> {
  const read = shape.safeParse(raw);
  if (read.success) return read.data;
  const detail = read.error.issues.slice(0, 5).map((issue) => `${issue.path.join(".") || "body"}: ${issue.message}`);
  throw new Refusal(422, "The request does not fit", detail.join("; "));
}

/** A whole number in a path or a query. @param most as its column holds it */
export function number(
  text: string | null | undefined,
  name: string,
  { least = 1, most = Number.MAX_SAFE_INTEGER }: { least?: number; most?: number } = {},
): number {
  const value = text && /^\d{1,16}$/.test(text) ? Number(text) : NaN;
  if (!Number.isSafeInteger(value) || value < least || value > most)
    throw new Refusal(400, "Not a number", `"${name}" must be a whole number from ${least} to ${most}.`);
  return value;
}

/** The number of a folder, label, macro, batch, marker or deck. */
export const shortNumber = (text: string | undefined): number => number(text, "id", { most: LARGEST_INT });

/** Several ids, with commas between. */
export const numbers = (text: string, name: string): number[] => text.split(",").map((id) => number(id, name));

/** The longest stretch of time that is asked for at once. */
const MOST_DAYS = 800;

/** From when to when, instants in ms, as `from` and `to` of a query say. @throws Refusal */
export function rangeOf(query: URLSearchParams): { readonly from: number; readonly to: number } {
  const [from, to] = ["from", "to"].map((name) => Date.parse(query.get(name) ?? ""));
  if (from === undefined || to === undefined || !(from < to) || to - from > MOST_DAYS * 86_400_000)
    throw new Refusal(400, "No such range", `Say "from" and "to" as ISO 8601, at most ${MOST_DAYS} days apart.`);
  return { from, to };
}
