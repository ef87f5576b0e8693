import * as z from "zod";
import { calendarEventValue, calendarValue, type MessageState } from "../change";
import type { FolderId } from "../id";
import { COLOURS, labelNamed, markerNamed, ROLES, type Directory } from "../place";

/**
 * Everything a person has, as files: a zip with the mail of each folder as mbox, beside it a line of JSON for each
 * message with what was decided about it, and a manifest of what those name. Read back in, nothing is missing.
 */

export const ARCHIVE_FORMAT = "tachyne-archive";
export const ARCHIVE_VERSION = 1;
export const MANIFEST = "manifest.json";

const time = z.iso.datetime().nullable();
const name = z.string().min(1).max(400);

export const manifestShape = z.object({
  format: z.literal(ARCHIVE_FORMAT),
  version: z.literal(ARCHIVE_VERSION),
  made: z.iso.datetime(),
  folders: z.array(
    z.object({
      path: name,
      role: z.enum(ROLES).nullable(),
      /** File of its mail, and of what was decided about it; null where it is empty. */
      mail: name.nullable(),
      states: name.nullable(),
    }),
  ),
  labels: z.array(z.object({ name, colour: z.enum(COLOURS) })),
  markers: z.array(z.object({ letter: z.string().length(1), colour: z.enum(COLOURS), meaning: z.string() })),
  tasks: z.array(
    z.object({
      title: z.string(),
      due: time,
      estimate: z.number().int().nullable(),
      about: z.string(),
      done: z.boolean(),
      pressing: z.boolean().default(false),
      waiting: z.boolean().default(false),
      repeat: z.string().nullable().default(null),
      message: z.string().nullable().describe("SHA-256 of the source of the message it was made from"),
    }),
  ),
  contacts: z.array(z.object({ address: z.string(), name: z.string(), note: z.string() })),
  calendars: z
    .array(
      calendarValue.extend({
        name,
        events: z.array(
          calendarEventValue.omit({ calendar: true }).extend({
            task: z.number().int().min(0).nullable().describe("the how manieth of the tasks above it is time for"),
            message: z.string().nullable().describe("SHA-256 of the source of the message it came from"),
          }),
        ),
      }),
    )
    // Files of before there were calendars have none.
    .default([]),
});
export type Manifest = z.infer<typeof manifestShape>;

/** What was decided about a message, by names that mean the same elsewhere. */
export const lineShape = z.object({
  hash: z
    .string()
    .regex(/^[0-9a-f]{64}$/)
    .describe("SHA-256 of the source"),
  read: z.boolean(),
  flag: z.object({ start: time, due: time, note: z.string().nullable() }).nullable(),
  pin: z.boolean(),
  owed: z.boolean(),
  answered: z.boolean(),
  marker: z.string().nullable(),
  labels: z.array(z.string()),
  note: z.string().nullable(),
  defer: time,
  back: time,
  await: time,
  hand: time,
});
export type Line = z.infer<typeof lineShape>;

type Source = Pick<Line, "hash" | "answered">;

export function lineOf({ folder: _, ...state }: MessageState, source: Source, directory: Directory): Line {
  const marker = directory.markers.find(({ id }) => id === state.marker)?.letter ?? null;
  const labels = directory.labels.filter(({ id }) => state.labels.includes(id)).map((label) => label.name);
  return { ...source, ...state, marker, labels };
}

/** @param directory what names mean now; what is named and not there is left out */
export function stateOf(
  { hash: _, answered: __, ...line }: Line,
  folder: FolderId,
  directory: Directory,
): MessageState {
  const labels = line.labels.flatMap((label) => labelNamed(directory, label)?.id ?? []);
  return {
    ...line,
    folder,
    marker: line.marker === null ? null : (markerNamed(directory, line.marker)?.id ?? null),
    labels: [...new Set(labels)].sort((a, b) => a - b),
  };
}

/** Lines of JSON. @throws Error with the number of the line that is none */
export function readLines(text: string): Line[] {
  return text
    .split("\n")
    .filter((line) => line.trim() !== "")
    .map((line, i) => {
      try {
        return lineShape.parse(JSON.parse(line));
      } catch (error) {
        throw new Error(`Line ${i + 1} of what was decided cannot be read.`, { cause: error });
      }
    });
}

/** A name for files from a folder's: letters, digits and dashes. @param n makes it the only one */
export const fileStem = (path: string, n: number): string => {
  const plain = path
    .normalize("NFKD")
    .replace(/[^A-Za-z0-9]+/g, "-")
    .replace(/^-+|-+$/g, "")
    .slice(0, 60);
  return `mail/${String(n).padStart(3, "0")}${plain ? `-${plain}` : ""}`;
};
