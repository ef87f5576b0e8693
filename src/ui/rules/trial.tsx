import dynamic from "next/dynamic";
import { useRouter } from "next/navigation";
import { useState } from "react";
import type { TrialPiece } from "@/core/api";
import { allOf, VERDICTS, type Month } from "@/core/rule";
import { cellText } from "../parts/cell-text";
import { Modal } from "../parts/picker";
import { countText, dateText, monthText, plural } from "../parts/words";
import { checkNarrow, focusMessage, goToPlace } from "../state/browse";
import { useView } from "../state/store";
import { useTrial } from "./use-trial";
import { FILLS, VERDICT_TEXT } from "./verdicts";

const TrialChart = dynamic(() => import("./trial-chart").then((part) => part.TrialChart), { ssr: false });

const PERIODS = [
  [3, "3 months"],
  [6, "6 months"],
  [12, "a year"],
  [36, "3 years"],
  [240, "all there is"],
] as const;

/** Which cells of a message, in words. */
const cells = (some: Readonly<Record<string, unknown>>, zone: string): string =>
  Object.entries(some)
    .map(([cell, value]) => (cell === "folder" ? `in ${cellText(value, zone)}` : `${cell}: ${cellText(value, zone)}`))
    .join(", ");

function Months({ months }: { readonly months: readonly Month[] }) {
  const all = allOf(months);
  const rows = [...months].reverse();
  return (
    <table className="w-full text-[13px]">
      <thead className="text-left text-xs text-ink-2">
        <tr>
          <th className="font-normal">month</th>
          {VERDICTS.map((verdict) => (
            <th key={verdict} className="pl-3 text-right font-normal whitespace-nowrap">
              <span
                aria-hidden
                className="mr-1 inline-block size-2.5 border border-edge align-baseline"
                style={{ background: FILLS[verdict] }}
              />
              {VERDICT_TEXT[verdict]}
            </th>
          ))}
        </tr>
      </thead>
      <tbody className="num">
        <tr className="border-y border-rule font-bold">
          <th className="py-0.5 text-left font-sans">all</th>
          {VERDICTS.map((verdict) => (
            <td key={verdict} data-all={verdict} className="text-right">
              {countText(all[verdict])}
            </td>
          ))}
        </tr>
        {rows.map((month) => (
          <tr key={month.month}>
            <th className="text-left font-sans font-normal whitespace-nowrap">{monthText(month.month)}</th>
            {VERDICTS.map((verdict) => (
              <td key={verdict} className="text-right">
                {month[verdict] === 0 ? "–" : countText(month[verdict])}
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

interface DifferingProps {
  readonly some: TrialPiece["differing"];
  readonly count: number;
  readonly onOpen: (message: number) => void;
}

/** Where the person decided otherwise, message by message. */
function Differing({ some, count, onOpen }: DifferingProps) {
  const zone = useView((v) => v.home?.person.zone ?? "UTC");
  if (count === 0) return null;
  return (
    <section aria-label="Where you decided otherwise" className="text-[13px]">
      <h3 className="mb-1 font-bold">
        Where you decided otherwise
        {some.length < count && (
          <span className="font-normal text-ink-2">
            {" "}
            – the newest {countText(some.length)} of {countText(count)}
          </span>
        )}
      </h3>
      <ul>
        {some.map(({ id, at, from, subject, would, did }) => (
          <li key={id} className="grid gap-x-3 border-t border-rule-soft py-1 sm:grid-cols-[132px_1fr_1fr]">
            <span className="num text-xs leading-5 whitespace-nowrap text-ink-2">{dateText(at, zone, new Date())}</span>
            <button type="button" onClick={() => onOpen(id)} className="min-w-0 truncate text-left underline">
              {subject || "(no subject)"} <span className="text-ink-2">{from}</span>
            </button>
            <span className="min-w-0 truncate">
              <s className="text-ink-2">{cells(would, zone)}</s> {cells(did, zone)}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}

interface Props {
  readonly narrow: string;
  readonly macro: number;
  /** Only mail of the senders on it. */
  readonly list?: string | undefined;
}

function TrialDialog({ narrow, macro, list, onClose }: Props & { readonly onClose: () => void }) {
  const router = useRouter();
  const name = useView((v) => v.macros.find(({ id }) => id === macro)?.name ?? "the macro");
  const [months, setMonths] = useState<number>(PERIODS[1][0]);
  const trial = useTrial(narrow, macro, list, months);
  const all = allOf(trial.months);
  const meant = all.agrees + all.differs + all.nothing;
  const open = (message: number) => {
    goToPlace("");
    focusMessage(message);
    router.push("/");
  };
  return (
    <Modal title={`${name} on the past`} onClose={onClose} wide>
      <div className="grid max-h-[68vh] gap-3 overflow-y-auto px-4 py-3">
        <div className="flex flex-wrap items-baseline gap-x-4 gap-y-1 text-[13px]">
          <code className="min-w-0 truncate font-mono">{narrow || "all mail that comes in"}</code>
          {list !== undefined && <span>of the senders of {list}</span>}
          <label className="flex items-center gap-1.5">
            over
            <select
              autoFocus
              value={months}
              onChange={({ target }) => setMonths(Number(target.value))}
              className="rounded-sm border border-edge bg-sheet px-1 py-0.5"
            >
              {PERIODS.map(([value, text]) => (
                <option key={value} value={value}>
                  {text}
                </option>
              ))}
            </select>
          </label>
          <span role="status" aria-live="polite" data-testid="looked" className="text-ink-2">
            {trial.isDone
              ? `of ${plural(trial.all, "message")} it would have been for ${countText(meant)}`
              : `looked at ${countText(trial.looked)} of ${countText(trial.all)}…`}
          </span>
        </div>
        {trial.trouble !== null && (
          <p role="alert" className="rounded-sm bg-brick-soft px-2 py-1 text-[13px]">
            {trial.trouble}
          </p>
        )}
        {!trial.isDone && trial.trouble === null && (
          <progress aria-label="Looked at" max={Math.max(1, trial.all)} value={trial.looked} className="h-1.5 w-full" />
        )}
        {meant > 0 && (
          <div className="grid items-start gap-4 md:grid-cols-2">
            <Months months={trial.months} />
            <TrialChart months={trial.months} />
          </div>
        )}
        {trial.isDone && meant === 0 && <p className="text-[13px]">It would have been for none of them.</p>}
        <Differing some={trial.differing} count={all.differs} onOpen={open} />
      </div>
    </Modal>
  );
}

/** Tries a condition and a macro on the past, beside what was done by hand. */
export function TrialButton({ narrow, macro, list, className }: Partial<Props> & { readonly className: string }) {
  const [isOpen, setOpen] = useState(false);
  const can = narrow !== undefined && macro !== undefined && checkNarrow(narrow).ok;
  return (
    <>
      <button
        type="button"
        disabled={!can}
        onClick={() => setOpen(true)}
        title="What it would have done with the mail of the last months, beside what you did by hand"
        className={className}
      >
        On the past
      </button>
      {isOpen && can && <TrialDialog narrow={narrow} macro={macro} list={list} onClose={() => setOpen(false)} />}
    </>
  );
}
