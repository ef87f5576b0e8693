"use client";
import { minutesLeft, paceOf } from "@/core/pass";
import { ORDERS, type ListOrder } from "@/core/list";
import { ORDER_TEXT } from "../bench/arrange";
import { useNow } from "../parts/now";
import { countText } from "../parts/words";
import { againSkipped, leavePass, limitPass, orderPass } from "../state/pass";
import { progress, standing } from "../state/pass-view";
import { set, useView, type Pass } from "../state/store";
import { LookTimer, PassTimer } from "./timers";

const BUTTON = "shrink-0 rounded-sm border border-rule bg-sheet px-2 py-1";
const SECOND_MS = 1000;
const LIMITS = [10, 15, 25, 45, 60];
const PASS_ORDERS: readonly ListOrder[] = ["oldest", "newest", "importance", "sender", "subject"].filter(
  (order): order is ListOrder => (ORDERS as readonly string[]).includes(order),
);

/** "71 done, 7 set aside, 40 to go" */
function countsText({ done, aside, skipped, left }: ReturnType<typeof progress>): string {
  return [
    `${countText(done)} done`,
    aside > 0 && `${countText(aside)} set aside`,
    skipped > 0 && `${countText(skipped)} skipped`,
    `${countText(left)} to go`,
  ]
    .filter(Boolean)
    .join(", ");
}

function paceText(pass: Pass, left: number, now: number): string {
  const pace = paceOf(standing(pass), pass.since, now);
  const minutes = minutesLeft(left, pace);
  if (pace === null || minutes === null) return "";
  const speed = pace >= 1 ? `${Math.round(pace)} a minute` : `${Math.round(pace * 60)} an hour`;
  return left === 0 ? speed : `${speed}, ${countText(minutes)} min left`;
}

/** How far a pass has come, how fast, and how it is arranged. */
export function PassBar({ pass }: { readonly pass: Pass }) {
  useView((v) => v.version);
  const focusId = useView((v) => v.focusId);
  const place = useView((v) => v.focus + 1);
  const seconds = useView((v) => v.home?.settings.lookSeconds ?? null);
  const now = useNow(SECOND_MS);
  const counts = progress(pass);
  const total = Math.max(1, counts.done + counts.aside + counts.skipped + counts.left);
  const share = (n: number) => ({ width: `${(100 * n) / total}%` });
  return (
    <div className="flex min-h-[46px] flex-wrap items-center gap-x-2.5 gap-y-1 border-b border-rule bg-paper px-3.5 py-1.5 font-mono text-[12.5px]">
      <select
        aria-label="Order of the pass"
        value={pass.order}
        onChange={({ target }) => orderPass(target.value as ListOrder)}
        title={`Pass of ${pass.name}`}
        className="w-40 shrink-0 rounded-sm bg-ink px-2 py-1 text-paper"
      >
        {(PASS_ORDERS.includes(pass.order) ? PASS_ORDERS : [pass.order, ...PASS_ORDERS]).map((order) => (
          <option key={order} value={order}>
            {ORDER_TEXT[order]}
          </option>
        ))}
      </select>
      <span data-testid="pass-counts" className="shrink-0 max-md:order-last max-md:w-full">
        {countsText(counts)}
      </span>
      <button
        type="button"
        className={BUTTON}
        title="Go to a number or a word (/)"
        onClick={() => set({ dialog: { kind: "jump" } })}
      >
        {pass.ended ? "end" : `no. ${countText(place)}`}
      </button>
      {counts.skipped > 0 && counts.left === 0 && !pass.ended && (
        <button type="button" className={BUTTON} onClick={againSkipped}>
          the skipped
        </button>
      )}
      <span
        role="img"
        aria-label={countsText(counts)}
        className="flex h-2.5 min-w-16 flex-1 overflow-hidden rounded-[2px] bg-rule max-md:order-last max-md:w-full max-md:flex-none"
      >
        <span className="bg-spruce" style={share(counts.done)} />
        <span className="bg-amber" style={share(counts.aside)} />
        <span className="bg-ink-3" style={share(counts.skipped)} />
      </span>
      <span className="shrink-0 max-md:hidden">{paceText(pass, counts.left, now)}</span>
      {seconds !== null && focusId !== null && <LookTimer key={focusId} seconds={seconds} />}
      {pass.limit !== null && <PassTimer since={pass.since} minutes={pass.limit} />}
      <select
        aria-label="Time for the pass"
        value={pass.limit ?? ""}
        onChange={({ target }) => limitPass(target.value === "" ? null : Number(target.value))}
        className={`${BUTTON} w-28 max-md:hidden`}
      >
        <option value="">no limit</option>
        {LIMITS.map((minutes) => (
          <option key={minutes} value={minutes}>
            {minutes} min
          </option>
        ))}
      </select>
      <button type="button" className={`${BUTTON} max-md:ml-auto`} onClick={leavePass}>
        Leave <kbd className="max-md:hidden">P</kbd>
      </button>
    </div>
  );
}
