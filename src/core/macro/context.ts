import { folderId, messageId, type FolderId, type MessageId } from "../id";
import type { Directory } from "../place";
import type { Settings } from "./settings";
import type { Step } from "./step";
import type { Template } from "./template-shape";

/** A macro that others may run by its name. */
export interface NamedMacro {
  readonly name: string;
  readonly steps: readonly Step[];
  readonly settings: Settings;
}

/** A folder a message may belong to, and how sure that is in percent. */
export interface FolderGuess {
  readonly folder: FolderId;
  readonly percent: number;
}

/** Where a message probably belongs, the likeliest first; null where only the server knows. */
export type Guess = (message: MessageId) => readonly FolderGuess[] | null;

export interface PlanContext {
  readonly directory: Directory;
  readonly now: Date;
  /** IANA name, for times such as "tomorrow 9". */
  readonly zone: string;
  readonly macros?: readonly NamedMacro[];
  readonly templates?: readonly Template[];
  readonly guess?: Guess;
  /** How sure a guess must be in percent, where a step does not say so itself. */
  readonly leastSure?: number;
}

export const macroNamed = (macros: readonly NamedMacro[] | undefined, name: string): NamedMacro | undefined =>
  macros?.find((m) => m.name === name) ?? macros?.find((m) => m.name.toLowerCase() === name.toLowerCase());

/** What a person saw of guesses, by message: [message, folder, percent, folder, percent …]. */
export type SeenGuesses = readonly (readonly number[])[];

export const readSeen = (seen: SeenGuesses): Map<MessageId, FolderGuess[]> =>
  new Map(
    seen.map(([message, ...rest]) => [
      messageId(message!),
      rest.flatMap((folder, i) => (i % 2 === 0 ? [{ folder: folderId(folder), percent: rest[i + 1] ?? 0 }] : [])),
    ]),
  );
