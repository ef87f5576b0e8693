"use client";
import { useMemo } from "react";
import { messageId } from "@/core/id";
import { skipText, type Plan } from "@/core/macro";
import { countText, plural } from "../parts/words";
import { mailbox, useView } from "../state/store";
import { editText, thingText } from "./edit-text";

interface Props {
  readonly plan: Plan;
  readonly ids: readonly number[];
  /** Rows shown one by one. */
  readonly most: number;
}

/** How many messages each kind of change is about, the commonest first. */
function totalsText(plan: Plan): string {
  const totals = new Map<string, number>();
  const add = (kind: string) => totals.set(kind, (totals.get(kind) ?? 0) + 1);
  const NAMES: Record<string, string> = { gone: "deleted", exists: "copied", defer: "deferred" };
  for (const edits of plan.change.messages.values())
    for (const kind of new Set(edits.map((edit) => edit.kind))) add(NAMES[kind] ?? kind);
  for (const { kind } of plan.things) add(kind);
  for (const _ of plan.texts) add("copied as text");
  return [...totals]
    .sort((a, b) => b[1] - a[1])
    .map(([kind, count]) => `${kind} ${countText(count)}`)
    .join(" · ");
}

/** Before and after, message by message; who is skipped and why; and what it comes to. */
export function PlanTable({ plan, ids, most }: Props) {
  const directory = useView((v) => v.directory);
  const zone = useView((v) => v.home?.person.zone ?? "UTC");
  const skips = useMemo(() => new Map(plan.skipped.map((skip) => [skip.message as number, skip])), [plan]);
  const unknown = useMemo(() => new Set<number>(plan.unknown), [plan]);
  const wordsOf = (id: number): string[] => [
    ...(plan.change.messages.get(messageId(id)) ?? []).map((edit) => editText(edit, directory, zone)),
    ...plan.things.filter((thing) => thing.source === id).map((thing) => thingText(thing, directory, zone)),
    ...(plan.texts.some((text) => text === id) ? ["copied as text"] : []),
  ];
  const whyNot = (id: number): string => {
    if (unknown.has(id)) return "depends on its text: the server will say";
    const skip = skips.get(id);
    if (!skip) return "nothing";
    return `skipped${skip.step > 0 ? `, step ${skip.step}` : ""}: ${skipText[skip.reason]}`;
  };
  const totals = totalsText(plan);
  return (
    <>
      <table className="w-full table-fixed text-[13px]">
        <tbody>
          {ids.slice(0, most).map((id) => {
            const row = mailbox.rowOf(id);
            if (row === undefined) return null;
            const words = wordsOf(id);
            return (
              <tr key={id} className="border-b border-rule align-top">
                <td className="w-2/5 truncate py-1.5 pr-3">
                  {mailbox.text(row, "fromName") || mailbox.text(row, "fromAddress")}
                  <span className="block truncate text-xs text-ink-3">{mailbox.text(row, "subject")}</span>
                </td>
                <td className="py-1.5">
                  {words.length > 0 ? words.join(", ") : <span className="text-ink-3">{whyNot(id)}</span>}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
      {ids.length > most && <p className="mt-1.5 text-[13px] text-ink-2">and {countText(ids.length - most)} more.</p>}
      <p className="num mt-1.5 text-xs text-ink-2">
        {totals}
        {plan.skipped.length > 0 && `${totals === "" ? "" : " · "}${plural(plan.skipped.length, "message")} skipped`}
        {plan.unknown.length > 0 && ` · ${countText(plan.unknown.length)} for the server to read`}
      </p>
    </>
  );
}
