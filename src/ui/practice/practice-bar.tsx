"use client";
import { useRouter } from "next/navigation";
import { endPractice, practicePlace, practiceSteps, practise } from "../state/practice";
import { startRecording } from "../state/record";
import { useView } from "../state/store";

const BUTTON = "shrink-0 rounded-sm border border-edge bg-sheet px-2 py-0.5 text-[13px] text-ink";

/** Over the practice letters: what there is to try, each ticked once it was done. */
export function PracticeBar() {
  const practice = useView((v) => v.home?.settings.practice ?? null);
  const here = useView((v) => v.batch === null && v.place === practicePlace());
  useView((v) => v.ledger);
  useView((v) => v.decks);
  const recording = useView((v) => v.recording);
  const pass = useView((v) => v.pass);
  if (!practice || practice.over || !here || pass) return null;
  const steps = practiceSteps(practice);
  const isAll = steps.every(({ isDone }) => isDone);
  return (
    <div
      data-testid="practice"
      className="flex flex-wrap items-center gap-x-4 gap-y-1 border-b border-rule bg-slate-soft px-3.5 py-1.5 text-[13px] text-ink print:hidden"
    >
      <b>Practice</b>
      <ol aria-label="To try" className="flex flex-wrap gap-x-4 gap-y-1">
        {steps.map(({ text, isDone }, i) => (
          <li key={text} data-done={isDone || undefined} className={isDone ? "text-ink-2 line-through" : ""}>
            {isDone ? "✓" : `${i + 1}.`} {text}
          </li>
        ))}
      </ol>
      <span className="ml-auto flex gap-2">
        {!isAll && recording === null && (
          <button type="button" className={BUTTON} onClick={startRecording}>
            Record
          </button>
        )}
        <button type="button" className={BUTTON} onClick={() => void endPractice()}>
          {isAll ? "Done: take the letters away" : "End"} <kbd>⇧ F9</kbd>
        </button>
      </span>
    </div>
  );
}

/** Where nothing was decided yet. @param always also to somebody who wanted no more of it */
export function PracticeOffer({ always = false }: { readonly always?: boolean }) {
  const isOver = useView((v) => v.home?.settings.practice?.over ?? false);
  const router = useRouter();
  if (isOver && !always) return null;
  return (
    <p className="flex flex-wrap items-center gap-2">
      <span className="min-w-full">
        New here? Twelve letters to practise on, written by nobody: nothing can go wrong.
      </span>
      <button type="button" className={BUTTON} onClick={() => void practise().then(() => router.push("/"))}>
        Practise <kbd>F9</kbd>
      </button>
      <button type="button" className={BUTTON} onClick={() => void endPractice()}>
        Never <kbd>⇧ F9</kbd>
      </button>
    </p>
  );
}
