"use client";
import { memo } from "react";
import type { SenderShape } from "@/core/api";
import { countText, dateText, dayText, sizeText } from "../parts/words";
import { shareText } from "./order";

const BAR_PX = 7;
const CHART_PX = 20;

/** Messages by month, as bars; the months are told in words too. */
function Months({ months }: { readonly months: readonly number[] }) {
  const most = Math.max(1, ...months);
  return (
    <svg
      role="img"
      aria-label={`${months.join(", ")} messages in the last ${months.length} months`}
      width={months.length * BAR_PX}
      height={CHART_PX}
      className="block"
    >
      {months.map((count, i) => {
        const height = count === 0 ? 1 : Math.max(2, Math.round((count / most) * CHART_PX));
        return (
          <rect
            key={i}
            x={i * BAR_PX}
            y={CHART_PX - height}
            width={BAR_PX - 2}
            height={height}
            className={count === 0 ? "fill-rule" : "fill-slate"}
          />
        );
      })}
    </svg>
  );
}

type Asked = NonNullable<SenderShape["leaving"]>;

/** That it was asked to send nothing more, and whether it keeps to that. */
function LeavingText({
  leaving: { state, at, said, since, page },
  zone,
}: {
  readonly leaving: Asked;
  readonly zone: string;
}) {
  if (state === "waiting")
    return (
      <b className="text-slate" title={said ?? undefined}>
        leaving…
      </b>
    );
  if (state === "refused")
    return (
      <b className="text-brick" title={page ?? undefined}>
        not left: {said ?? "it refused"}
      </b>
    );
  const day = dayText(Date.parse(at), zone);
  return since === 0 ? (
    <b className="text-spruce">left {day}</b>
  ) : (
    <b className="text-brick">
      {since} since you left on {day}
    </b>
  );
}

interface Props {
  readonly sender: SenderShape;
  readonly focused: boolean;
  readonly ticked: boolean;
  readonly zone: string;
  readonly onFocus: () => void;
  readonly onTick: () => void;
  readonly onOpen: () => void;
}

/** One list or sender: how much comes, and what becomes of it. */
export const SenderRow = memo(function SenderRow({ sender, focused, ticked, zone, onFocus, onTick, onOpen }: Props) {
  const { source, name, address, isList, months, total, read, answered, trashedUnread } = sender;
  const { inbox, bytes, unreadMonthly, lastRead, blocked, leaving, aside, offer } = sender;
  const cell = "px-2 py-1 text-right num whitespace-nowrap";
  return (
    <tr
      data-source={source}
      data-focused={focused || undefined}
      aria-selected={ticked}
      ref={(element) => {
        if (focused) element?.scrollIntoView({ block: "nearest" });
      }}
      onClick={onFocus}
      className={`border-b border-rule-soft ${ticked ? "bg-spruce-soft" : ""} ${focused ? "shadow-[inset_0_0_0_2px_var(--ink)]" : ""}`}
    >
      <td className="py-1 pl-2.5">
        <input type="checkbox" className="block" aria-label={`Tick ${name}`} checked={ticked} onChange={onTick} />
      </td>
      <td className="max-w-0 py-1 pr-2 pl-2">
        <button
          type="button"
          onClick={onOpen}
          title={`All mail of ${address}`}
          className="block w-full truncate text-left"
        >
          <span className="font-semibold">{name}</span>{" "}
          <span className="text-xs text-ink-2">
            {blocked && <b className="text-brick">blocked </b>}
            {aside === "aside" && <b className="text-slate">aside </b>}
            {offer !== null && <b className="text-slate">aside? {offer} </b>}
            {leaving && <LeavingText leaving={leaving} zone={zone} />} {isList ? `list ${source.slice(5)}` : address}
          </span>
        </button>
      </td>
      <td className="px-2 py-1 max-md:hidden">
        <Months months={months} />
      </td>
      <td className={`${cell} font-bold`}>{unreadMonthly === 0 ? "–" : unreadMonthly}</td>
      <td className={`${cell} max-md:hidden`}>{countText(total)}</td>
      <td className={cell}>{countText(inbox)}</td>
      <td className={`${cell} max-md:hidden`}>{shareText(read, total)}</td>
      <td className={`${cell} max-md:hidden`}>{answered === 0 ? "–" : countText(answered)}</td>
      <td className={`${cell} max-md:hidden`}>
        {trashedUnread === 0 ? "–" : `${countText(trashedUnread)} of ${countText(total)}`}
      </td>
      <td className={`${cell} text-ink-2 max-md:hidden`}>
        {lastRead === null ? "never" : dateText(lastRead, zone, new Date())}
      </td>
      <td className={`${cell} text-ink-2 max-md:hidden`}>{sizeText(bytes)}</td>
    </tr>
  );
});
