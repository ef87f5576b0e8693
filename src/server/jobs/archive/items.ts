import { createHash } from "node:crypto";
import { ARCHIVE_FORMAT, MANIFEST, manifestShape, readLines, type Line, type Manifest } from "@/core/archive";
import { mailFileOf, MOST_MESSAGE_BYTES, withoutTop, type MailFlags } from "@/core/mail";
import type { Role } from "@/core/place";
import { messagesOf } from "../messages-of";
import type { Problem } from "../rows";
import type { Packed } from "./packed";

/** The messages of an archive, each with where it goes and what is known of it beside its source. */

export interface Incoming {
  readonly raw: Uint8Array;
  /** The archive's mail is taken in up to here, in bytes of it unpacked: an import that stopped goes on from here. */
  readonly end: number;
  /** Where it goes; null for the place that was chosen for the whole file. */
  readonly place: { readonly path: string; readonly role: Role | null } | null;
  readonly flags: MailFlags | null;
  /** What was decided about it where it came from. */
  readonly line: Line | null;
  /** The how manieth of this source it is in the archive, from 1. */
  readonly nth: number;
}

interface Source {
  /** Its number among the packed files. */
  readonly n: number;
  readonly kind: "message" | "mbox";
  readonly place: Incoming["place"];
  readonly flags: MailFlags | null;
  readonly size: number;
  readonly lines: readonly Line[];
}

export interface Opened {
  readonly sources: readonly Source[];
  /** Bytes of all mail in it, unpacked. */
  readonly total: number;
  readonly manifest: Manifest | null;
}

/** Beside mail, only what is written by this app is read whole. */
const MOST_TEXT_BYTES = 512 * 1024 * 1024;

async function bytesOf(stream: AsyncIterable<Uint8Array>, most: number): Promise<Buffer | null> {
  const parts: Uint8Array[] = [];
  let length = 0;
  for await (const part of stream) {
    length += part.length;
    if (length <= most) parts.push(part);
  }
  return length > most ? null : Buffer.concat(parts);
}

async function textsOf(packed: Packed, wanted: ReadonlySet<number>): Promise<Map<string, string>> {
  const texts = new Map<string, string>();
  for await (const { n, bytes } of packed.each(wanted)) {
    const text = await bytesOf(bytes, MOST_TEXT_BYTES);
    if (text) texts.set(packed.files[n]!.path, text.toString("utf8"));
  }
  return texts;
}

const asJson = (text: string): unknown => {
  try {
    return JSON.parse(text);
  } catch {
    return null;
  }
};

/**
 * An archive of this app's own: what its manifest says is in it.
 * @returns null where the manifest is of something else
 * @throws Error for one that cannot be read
 */
async function ownSources(packed: Packed, at: number): Promise<{ manifest: Manifest; sources: Source[] } | null> {
  const [text] = (await textsOf(packed, new Set([at]))).values();
  const said = asJson(text ?? "");
  if ((said as { readonly format?: unknown } | null)?.format !== ARCHIVE_FORMAT) return null;
  const read = manifestShape.safeParse(said);
  if (!read.success) throw new Error(`Its ${MANIFEST} is of another version, or damaged.`);
  const manifest = read.data;
  const number = new Map(packed.files.map(({ path }, n) => [path, n]));
  const states = new Set(manifest.folders.flatMap((folder) => number.get(folder.states ?? "") ?? []));
  const texts = await textsOf(packed, states);
  const sources = manifest.folders.flatMap(({ path, role, mail, states: of }): Source[] => {
    const n = mail === null ? undefined : number.get(mail);
    if (mail !== null && n === undefined) throw new Error(`The mail of ${path} is missing from it.`);
    if (n === undefined) return [];
    const lines = readLines(texts.get(of ?? "") ?? "");
    return [{ n, kind: "mbox", place: { path, role }, flags: null, size: packed.files[n]!.size, lines }];
  });
  return { manifest, sources: sources.sort((a, b) => a.n - b.n) };
}

function otherSources(packed: Packed): Source[] {
  const found = packed.files.flatMap((file, n) => {
    const mail = mailFileOf(file.path);
    return mail ? [{ ...mail, n, size: file.size }] : [];
  });
  return withoutTop(found).map(({ folder, kind, flags }, i): Source => {
    const { n, size } = found[i]!;
    return { n, size, kind, flags, place: folder === "" ? null : { path: folder, role: null }, lines: [] };
  });
}

/** @throws Error in words for what cannot be read */
export async function openArchive(packed: Packed): Promise<Opened> {
  const at = packed.files.findIndex(({ path }) => path === MANIFEST);
  const own = at < 0 ? null : await ownSources(packed, at);
  const { manifest, sources } = own ?? { manifest: null, sources: otherSources(packed) };
  if (sources.length === 0 && !manifest) throw new Error("There is no mail in it: no mbox, no eml, no Maildir.");
  return { manifest, sources, total: sources.reduce((sum, { size }) => sum + size, 0) };
}

/** For each source's lines, the how manieth of its kind each is. */
function countNths(sources: readonly Source[]): Map<Line, number> {
  const seen = new Map<string, number>();
  const nths = new Map<Line, number>();
  for (const { lines } of sources)
    for (const line of lines) {
      const nth = (seen.get(line.hash) ?? 0) + 1;
      seen.set(line.hash, nth);
      nths.set(line, nth);
    }
  return nths;
}

const hashOf = (raw: Uint8Array): string => createHash("sha256").update(raw).digest("hex");

/** Finds what was decided about each message of a mailbox file, which ends all of them with a line end. */
function lineFinder(
  lines: readonly Line[],
): (raw: Uint8Array) => { readonly line: Line | null; readonly raw: Uint8Array } {
  const byHash = new Map<string, Line[]>();
  for (const line of lines) byHash.set(line.hash, [...(byHash.get(line.hash) ?? []), line]);
  return (whole) => {
    for (const raw of lines.length === 0 ? [] : [whole, whole.subarray(0, -1)]) {
      const line = byHash.get(hashOf(raw))?.shift();
      if (line) return { line, raw };
    }
    return { line: null, raw: whole };
  };
}

/** The messages from a byte on. */
export async function* itemsOf(
  packed: Packed,
  { sources }: Opened,
  from: number,
  note: (problem: Problem) => void,
): AsyncGenerator<Incoming> {
  const nths = countNths(sources);
  const starts = new Map<number, { readonly source: Source; readonly start: number }>();
  let start = 0;
  for (const source of sources) {
    if (start + source.size > from) starts.set(source.n, { source, start });
    start += source.size;
  }
  for await (const { n, bytes } of packed.each(new Set(starts.keys()))) {
    const { source, start } = starts.get(n)!;
    const { place, flags, lines } = source;
    const end = start + source.size;
    if (source.kind === "message") {
      const raw = await bytesOf(bytes, MOST_MESSAGE_BYTES);
      if (raw) yield { raw, end, place, flags, line: null, nth: 1 };
      else note({ offset: start, reason: `${packed.files[n]!.path} is larger than ${MOST_MESSAGE_BYTES >> 20} MB.` });
      continue;
    }
    const lineFor = lineFinder(lines);
    for await (const item of messagesOf(bytes, 0, (problem) => note({ ...problem, offset: start + problem.offset }))) {
      const { line, raw } = lineFor(item.raw);
      if (start + item.end <= from) continue;
      yield { raw, end: start + item.end, place, flags, line, nth: line ? nths.get(line)! : 1 };
    }
  }
}
