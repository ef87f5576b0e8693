"use client";
import { endOf } from "@/core/pass";
import { countText, plural } from "../parts/words";
import { addArrivals, againSkipped, arrivals, closePass, startOwed } from "../state/pass";
import { progress, standing } from "../state/pass-view";
import { mailbox, useView, type Pass } from "../state/store";
import { focusMessage } from "../state/browse";

const BUTTON = "rounded-sm border border-edge bg-sheet px-3 py-1.5 text-[13px]";
const seconds = (ms: number): string => (ms < 10_000 ? `${(ms / 1000).toFixed(1)} s` : `${Math.round(ms / 1000)} s`);

/** What a pass came to, and what could be done next. */
export function PassEnd({ pass }: { readonly pass: Pass }) {
  useView((v) => v.version);
  const counts = progress(pass);
  const { macros, median, slowest } = endOf(standing(pass));
  const fresh = arrivals(pass);
  const most = macros[0]?.count ?? 1;
  const row = slowest === null ? undefined : mailbox.rowOf(slowest.message);
  return (
    <section aria-label="End of the pass" className="h-full overflow-y-auto bg-paper px-6 py-6 md:px-[60px]">
      <h1 className="text-[24px] font-semibold">
        {counts.done + counts.aside === 0
          ? "Nothing was decided"
          : `${plural(counts.done + counts.aside, "message")} decided`}
      </h1>
      <p className="mt-1 text-ink-2">
        {pass.name}
        {median !== null && `: ${seconds(median)} a decision, half of them faster`}
        {slowest !== null && row !== undefined && (
          <>
            ; the slowest took {seconds(slowest.ms)}:{" "}
            <button type="button" className="underline" onClick={() => focusMessage(slowest.message)}>
              {mailbox.text(row, "subject") || "(no subject)"}
            </button>
          </>
        )}
      </p>
      {macros.length > 0 && (
        <table className="mt-4 w-full max-w-lg text-[14px]">
          <caption className="sr-only">What was decided, by macro</caption>
          <tbody>
            {macros.map(({ name, count }) => (
              <tr key={name} className="border-b border-rule-soft">
                <th scope="row" className="w-44 max-w-44 truncate py-1 pr-3 text-left font-semibold">
                  {name}
                </th>
                <td>
                  <span className="block h-2 rounded-[2px] bg-spruce" style={{ width: `${(100 * count) / most}%` }} />
                </td>
                <td className="num w-14 pl-3 text-right">{countText(count)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <ul className="mt-5 grid max-w-lg gap-2 text-[14px]">
        {counts.skipped > 0 && (
          <li className="flex items-center justify-between gap-3">
            {plural(counts.skipped, "message")} skipped
            <button type="button" className={BUTTON} onClick={againSkipped}>
              Go through them
            </button>
          </li>
        )}
        {fresh.length > 0 && (
          <li className="flex items-center justify-between gap-3">
            {plural(fresh.length, "message")} came meanwhile
            <button type="button" className={BUTTON} onClick={() => addArrivals(fresh)}>
              Go through them
            </button>
          </li>
        )}
        {counts.aside > 0 && (
          <li className="flex flex-wrap items-center justify-between gap-3">
            {plural(counts.aside, "answer")} owed from this pass
            <span className="flex gap-2">
              <button type="button" className={BUTTON} onClick={() => startOwed("oldest")}>
                Answer, longest waiting first
              </button>
              <button type="button" className={BUTTON} onClick={() => startOwed("importance")}>
                Most important first
              </button>
            </span>
          </li>
        )}
      </ul>
      <p className="mt-6 flex gap-3">
        <button type="button" className="rounded-sm bg-ink px-3 py-1.5 text-[13px] text-paper" onClick={closePass}>
          Close the pass
        </button>
        <span className="self-center text-[13px] text-ink-2 max-md:hidden">
          <kbd>U</kbd> takes the last decision back, <kbd>K</kbd> goes back to the last message.
        </span>
      </p>
    </section>
  );
}
