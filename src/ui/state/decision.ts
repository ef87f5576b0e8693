import type { RunTarget } from "@/core/api";
import type { Change } from "@/core/change";
import type { RunId } from "@/core/id";
import type { Hand, READING } from "@/core/ledger";
import type { Answers, SeenGuesses, Settings, Step } from "@/core/macro";

/** A decision that the server has not confirmed yet. All of it can be stored, so it outlives the window. */
export type Decision =
  | {
      readonly kind: "run";
      readonly id: RunId;
      /** When it was decided, ISO 8601: times such as +3h count from it. */
      readonly at: string;
      readonly macro: {
        readonly id?: number;
        readonly name: string;
        readonly steps: readonly Step[];
        readonly settings?: Settings;
      };
      readonly ids: readonly number[];
      /** The messages as a description, where the whole list was selected: that is sent instead of the ids. */
      readonly described?: Exclude<RunTarget, { ids: unknown }> | null;
      readonly answers: Answers;
      /** What was seen of guesses, as SeenGuesses in core/macro. */
      readonly guesses?: SeenGuesses;
      /** What it is on, in words. */
      readonly about: string;
      /** With what it was made. */
      readonly by?: Hand;
      /** The pass it was decided in, and how long its message was looked at. */
      readonly pass?: { readonly id: string; readonly ms: number };
      /** That the messages were only looked at. */
      readonly cause?: typeof READING;
    }
  | {
      readonly kind: "undo" | "redo";
      readonly id: RunId;
      readonly of: RunId;
      readonly name: string;
      readonly at: string;
      /** Whether the undo key meant it: then it goes on to the run before where nothing can be taken back. */
      readonly byKey?: boolean;
    };

/** A decision on its way, with what it did to the view. */
export interface OnItsWay {
  readonly decision: Decision;
  readonly change: Change;
}
