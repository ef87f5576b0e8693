import { useEffect } from "react";
import { useNow } from "../parts/now";
import { notify, useView } from "../state/store";
import { useComing } from "./coming";
import { timeText } from "./words";

const MINUTE_MS = 60_000;
const SAID = "reminders said";
const MOST_KEPT = 200;

const saidSoFar = (): string[] => {
  try {
    return JSON.parse(localStorage.getItem(SAID) ?? "[]") as string[];
  } catch {
    return [];
  }
};

/** Notes that it was said, for every window. @returns whether it was not before */
function claim(key: string): boolean {
  const said = saidSoFar();
  if (said.includes(key)) return false;
  localStorage.setItem(SAID, JSON.stringify([...said, key].slice(-MOST_KEPT)));
  return true;
}

/** Says what is about to begin, once: quietly in the app, and by the browser where that was allowed. */
export function Reminders() {
  const zone = useView((v) => v.home?.person.zone ?? "UTC");
  const now = useNow(15_000);
  const coming = useComing(zone, now);
  useEffect(() => {
    for (const one of coming) {
      const { remind, title, place } = one.event;
      if (remind === null || one.start <= now || one.start - remind * MINUTE_MS > now) continue;
      if (!claim(`${one.event.uid} ${one.start}`)) continue;
      const minutes = Math.ceil((one.start - now) / MINUTE_MS);
      const text = `${timeText(one, zone)} ${title}${place && `, ${place}`}: in ${minutes} min.`;
      notify(text);
      if ("Notification" in window && Notification.permission === "granted")
        new Notification("Tachyne", { body: text });
    }
  }, [coming, now, zone]);
  return null;
}

/** Asks the browser whether it may say it too; nothing where that was answered already. */
export async function allowNotifications(): Promise<void> {
  if (!("Notification" in window) || Notification.permission !== "default") return;
  const answer = await Notification.requestPermission();
  notify(answer === "granted" ? "Reminders are said by the browser too." : "Reminders are said here only.");
}
