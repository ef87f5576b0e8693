/** Branded ids. Each has one constructor, which refuses anything that cannot be an id. */

declare const brand: unique symbol;
export type Brand<T, Name extends string> = T & { readonly [brand]: Name };

export type PersonId = Brand<number, "PersonId">;
export type MessageId = Brand<number, "MessageId">;
export type ThreadId = Brand<number, "ThreadId">;
export type FolderId = Brand<number, "FolderId">;
export type LabelId = Brand<number, "LabelId">;
export type MarkerId = Brand<number, "MarkerId">;
/** A UUID made by whoever asks for the run, so that asking twice does it once. */
export type RunId = Brand<string, "RunId">;

const UUID = /^[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}$/;

function whole<Name extends string>(name: Name) {
  return (raw: number): Brand<number, Name> => {
    if (!Number.isSafeInteger(raw) || raw <= 0) throw new RangeError(`not a ${name}: ${String(raw)}`);
    return raw as Brand<number, Name>;
  };
}

/** @throws RangeError, like every constructor here, unless given a positive whole number. */
export const personId = whole("PersonId");
export const messageId = whole("MessageId");
export const threadId = whole("ThreadId");
export const folderId = whole("FolderId");
export const labelId = whole("LabelId");
export const markerId = whole("MarkerId");

/** @throws RangeError unless given a UUID; letters are folded to lower case. */
export function runId(raw: string): RunId {
  const folded = raw.toLowerCase();
  if (!UUID.test(folded)) throw new RangeError(`not a run id: ${raw.slice(0, 60)}`);
  return folded as RunId;
}
