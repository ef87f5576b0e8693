"use client";
import { useQuery } from "@tanstack/react-query";
import { useRouter } from "next/navigation";
import type { Between as Shape } from "@/core/api";
import { writeEquals } from "@/core/narrow";
import { countText, dateText, monthText, plural } from "../parts/words";
import { goToPlace } from "../state/browse";
import { between } from "../state/reads";
import { useView } from "../state/store";

const MOST_MONTHS = 12;

interface Period {
  /** As a narrowing writes it: "2026-11" or "2025". */
  readonly date: string;
  readonly theirs: number;
  readonly mine: number;
}

/** The last months one by one, and what is older by years. */
function periodsOf(months: Shape["months"]): Period[] {
  const years = new Map<string, Period>();
  for (const { month, theirs, mine } of months.slice(MOST_MONTHS)) {
    const date = month.slice(0, 4);
    const year = years.get(date);
    years.set(date, { date, theirs: theirs + (year?.theirs ?? 0), mine: mine + (year?.mine ?? 0) });
  }
  return [
    ...months.slice(0, MOST_MONTHS).map(({ month, ...counts }) => ({ date: month, ...counts })),
    ...years.values(),
  ];
}

const total = (periods: readonly Period[], of: "theirs" | "mine") => periods.reduce((sum, one) => sum + one[of], 0);

/** What went to and fro with somebody: each figure is a batch one key away. */
export function Between({ address }: { readonly address: string }) {
  const router = useRouter();
  const zone = useView((v) => v.home?.person.zone ?? "UTC");
  const { data, error } = useQuery(between(address));
  if (error) return <p role="alert">{error.message}</p>;
  if (!data) return <p className="text-[13px] text-ink-3">Looking…</p>;
  const from = writeEquals("from", address);
  const to = `${writeEquals("to", address)} & mine`;
  const link = (text: string, label: string, narrow: string) => (
    <button
      type="button"
      aria-label={label}
      className="underline decoration-edge underline-offset-2"
      onClick={() => {
        goToPlace(narrow);
        router.push("/");
      }}
    >
      {text}
    </button>
  );
  const day = (iso: string) => <span className="num">{dateText(iso, zone, new Date())}</span>;
  const { last, answered, owed, awaited } = data;
  const periods = periodsOf(data.months);
  // The first months follow one another by name; what is older is a whole year, and may hold some of those months.
  const rest = (date: string) =>
    date.length > 4 ? `date=${date}` : `date=${date} & date<${data.months[MOST_MONTHS - 1]!.month}`;
  return (
    <div className="grid max-w-xl gap-3 text-[13px]">
      <ul className="grid gap-0.5">
        <li>
          {last.theirs ? <>They wrote last on {day(last.theirs)}</> : "They have never written"}
          {answered.theirs && <>, and answered you last on {day(answered.theirs)}</>}.
        </li>
        <li>
          {last.mine ? <>You wrote last on {day(last.mine)}</> : "You have never written to them"}
          {answered.mine && <>, and answered them last on {day(answered.mine)}</>}.
        </li>
        {owed.count > 0 && owed.since && (
          <li className="text-amber">
            You owe them {link(plural(owed.count, "answer"), "Owed to them", `(${from} | ${to}) & owed`)}, the oldest
            since {day(owed.since)}.
          </li>
        )}
        {awaited.count > 0 && awaited.until && (
          <li className="text-slate">
            You await {link(plural(awaited.count, "answer"), "Awaited from them", `(${from} | ${to}) & awaited`)} from
            them, the first until {day(awaited.until)}.
          </li>
        )}
      </ul>
      {periods.length > 0 && (
        <table className="w-full max-w-sm border-collapse">
          <caption className="sr-only">Mail with them by month</caption>
          <thead className="text-left text-xs text-ink-3">
            <tr>
              <th scope="col" className="font-semibold">
                When
              </th>
              <th scope="col" className="text-right font-semibold">
                From them
              </th>
              <th scope="col" className="text-right font-semibold">
                To them
              </th>
            </tr>
          </thead>
          <tbody>
            {periods.map(({ date, theirs, mine }) => (
              <tr key={date} className="border-t border-rule-soft">
                <th scope="row" className="py-0.5 text-left font-normal">
                  {date.length > 4
                    ? monthText(date)
                    : data.months.slice(0, MOST_MONTHS).some(({ month }) => month.startsWith(date))
                      ? `earlier in ${date}`
                      : date}
                </th>
                {(
                  [
                    [theirs, from, "from them"],
                    [mine, to, "to them"],
                  ] as const
                ).map(([count, who, text]) => (
                  <td key={text} className="num text-right">
                    {count === 0
                      ? "–"
                      : link(countText(count), `${countText(count)} ${text} in ${date}`, `${who} & ${rest(date)}`)}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
          <tfoot>
            <tr className="border-t border-edge">
              <th scope="row" className="text-left font-semibold">
                {link("All", "All mail with them", `${from} | ${to}`)}
              </th>
              {(
                [
                  ["theirs", "From them", from],
                  ["mine", "To them", to],
                ] as const
              ).map(([of, text, narrow]) => (
                <td key={of} className="num text-right">
                  {total(periods, of) === 0 ? "–" : link(countText(total(periods, of)), text, narrow)}
                </td>
              ))}
            </tr>
          </tfoot>
        </table>
      )}
    </div>
  );
}
