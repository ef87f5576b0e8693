"use client";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { countText, plural } from "../parts/words";
import { FILING_EXPORT } from "../state/api";
import { filing } from "../state/reads";
import { useView } from "../state/store";
import { alter, change } from "./act";

const BUTTON = "rounded-sm border border-edge bg-sheet px-2 py-0.5 text-[13px]";
const LEAST = [0, 40, 50, 60, 70, 80, 90, 95] as const;

/** How sure a guess must be. */
function LeastSure() {
  const least = useView((v) => v.home?.settings.leastSure);
  if (least === undefined) return null;
  const all = LEAST.some((one) => one === least) ? LEAST : [...LEAST, least].sort((a, b) => a - b);
  const put = (leastSure: number) =>
    void alter("/settings", { leastSure: least }, { leastSure }, `A folder is guessed from ${leastSure} % on`);
  return (
    <label className="flex items-center gap-2">
      A folder is guessed where it is at least
      <select
        value={least}
        onChange={({ target }) => put(Number(target.value))}
        className="rounded-sm border border-rule bg-sheet px-1 py-0.5"
      >
        {all.map((percent) => (
          <option key={percent} value={percent}>
            {percent} %
          </option>
        ))}
      </select>
      sure; else it is asked for
    </label>
  );
}

/** What filing has taught: looked at, taken along, forgotten. */
export function Filing() {
  const { data } = useQuery(filing);
  const [asks, setAsks] = useState(false);
  const forget = async (anew: boolean) => {
    const said = anew
      ? "What filing has taught is forgotten, and learned again from the folders as they are."
      : "What filing has taught is forgotten. It learns from what you file from now on.";
    if (await change("POST", "/filing/reset", { anew }, said)) setAsks(false);
  };
  return (
    <section aria-labelledby="filing-title" className="grid justify-items-start gap-1.5 text-[13px]">
      <h2 id="filing-title" className="text-[13px] font-bold">
        Where mail belongs
      </h2>
      <LeastSure />
      {data && (
        <p data-testid="learned">
          Learned from {plural(data.learned, "message")} in your folders; what is junk from {countText(data.junk.junk)}{" "}
          that are and {countText(data.junk.wanted)} that are not
          {data.due > 0 ? `; ${countText(data.due)} more are being looked at.` : "."}
        </p>
      )}
      {data && data.folders.length + data.junk.signs.length > 0 && (
        <details className="w-full">
          <summary className="cursor-default underline">What is known of each folder, and of junk</summary>
          <div className="mt-1 max-h-72 overflow-y-auto">
            <table className="w-full">
              <tbody>
                {[...data.folders, { folder: "Junk", learned: data.junk.junk, signs: data.junk.signs }].map(
                  ({ folder, learned, signs }, i) => (
                    <tr key={i} className="border-b border-rule-soft align-top">
                      <td className="py-1 pr-3 font-semibold">{folder}</td>
                      <td className="num py-1 pr-3 text-right">{countText(learned)}</td>
                      <td className="py-1 text-ink-2">
                        {signs.map(({ text, times }) => `${text} (${countText(times)})`).join(", ")}
                      </td>
                    </tr>
                  ),
                )}
              </tbody>
            </table>
          </div>
        </details>
      )}
      <p className="max-w-[60ch] text-ink-2">
        All of it is kept with your mail and goes nowhere else. It forgets slowly: what was filed long ago counts less.
      </p>
      {asks ? (
        <span className="flex flex-wrap gap-1.5">
          <button type="button" autoFocus className={BUTTON} onClick={() => void forget(true)}>
            Learn anew from the folders
          </button>
          <button type="button" className={BUTTON} onClick={() => void forget(false)}>
            Begin with nothing
          </button>
          <button type="button" className={BUTTON} onClick={() => setAsks(false)}>
            Leave it as it is
          </button>
        </span>
      ) : (
        <span className="flex flex-wrap gap-1.5">
          <a href={FILING_EXPORT} download className={BUTTON}>
            Take it along
          </a>
          <button type="button" className={BUTTON} onClick={() => setAsks(true)}>
            Forget it…
          </button>
        </span>
      )}
    </section>
  );
}
