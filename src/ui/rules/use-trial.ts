import { useEffect, useState } from "react";
import type { TrialPiece } from "@/core/api";
import { joinMonths, type Month } from "@/core/rule";
import { write } from "../state/api";

/** So many messages that differ are shown one by one. */
const MOST_SHOWN = 500;

export interface Trial {
  readonly all: number;
  readonly looked: number;
  readonly months: readonly Month[];
  readonly differing: TrialPiece["differing"];
  readonly isDone: boolean;
  readonly trouble: string | null;
}

const BEGUN: Trial = { all: 0, looked: 0, months: [], differing: [], isDone: false, trouble: null };

const join = (trial: Trial, { all, looked, months, differing, before }: TrialPiece): Trial => ({
  all,
  looked: trial.looked + looked,
  months: joinMonths(trial.months, months),
  differing: [...trial.differing, ...differing].slice(0, MOST_SHOWN),
  isDone: before === null,
  trouble: null,
});

/** What a rule would have done with the last months, as far as it has been looked at: piece by piece, newest first. */
export function useTrial(narrow: string, macro: number, list: string | undefined, months: number): Trial {
  const [trial, setTrial] = useState(BEGUN);
  useEffect(() => {
    const over = new AbortController();
    const look = async () => {
      let soFar = BEGUN;
      let before: TrialPiece["before"] = null;
      setTrial(soFar);
      do {
        const body = {
          narrow,
          macro,
          months,
          ...(list === undefined ? {} : { list }),
          ...(before === null ? {} : { before }),
        };
        const piece: TrialPiece = await write<TrialPiece>("POST", "/rules/trial", body);
        if (over.signal.aborted) return;
        soFar = join(soFar, piece);
        setTrial(soFar);
        ({ before } = piece);
      } while (before !== null);
    };
    look().catch((error: unknown) => {
      if (over.signal.aborted) return;
      setTrial((now) => ({ ...now, trouble: error instanceof Error ? error.message : "It could not be tried." }));
    });
    return () => over.abort();
  }, [narrow, macro, list, months]);
  return trial;
}
