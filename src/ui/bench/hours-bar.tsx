"use client";
import { useQuery } from "@tanstack/react-query";
import { plural } from "@/core/text";
import { useNow } from "../parts/now";
import { ageText, dateText } from "../parts/words";
import { LetIn } from "../rules/let-in";
import { placeOf } from "../state/places";
import { hours } from "../state/reads";
import { useView } from "../state/store";

const EVERY_MS = 15_000;

/** In the inbox: how much waits for its hours, by count only, and how long it still does. */
export function HoursBar() {
  const { data } = useQuery(hours);
  const zone = useView((v) => v.home?.person.zone ?? "UTC");
  const isHere = useView((v) => {
    const inbox = v.directory.folders.find(({ role }) => role === "inbox");
    return inbox !== undefined && placeOf(inbox) === v.place;
  });
  const nowMs = useNow(EVERY_MS);
  if (!data || data.waiting === 0 || data.opens === null || !isHere) return null;
  const leftMs = Math.max(0, Date.parse(data.opens) - nowMs);
  return (
    <p
      data-testid="hours"
      className="flex items-center gap-3 border-b border-rule bg-well px-3.5 py-1.5 text-[13px] print:hidden"
    >
      <span className="min-w-0 flex-1 truncate">
        {plural(data.waiting, "message")} {data.waiting === 1 ? "waits" : "wait"} until{" "}
        {dateText(data.opens, zone, new Date(nowMs))}, {ageText(leftMs)} from now.
      </span>
      <LetIn />
    </p>
  );
}
