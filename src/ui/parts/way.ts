import type { OutgoingShape } from "@/core/api";
import { shortTimeText } from "./words";

const SECONDS_SHOWN = 120;

/** How far a message on its way is, in a few words. */
export function wayText({ state, at, recipients }: OutgoingShape, zone: string, nowMs: number): string {
  const leftMs = Date.parse(at) - nowMs;
  switch (state) {
    case "waiting":
      if (leftMs <= 0) return "leaves now";
      return leftMs < SECONDS_SHOWN * 1000
        ? `leaves in ${Math.ceil(leftMs / 1000)} s`
        : `leaves ${shortTimeText(Date.parse(at), zone, nowMs)}`;
    case "sending":
      return "is being sent";
    case "later":
      return leftMs <= 0 ? "tried again now" : `tried again ${shortTimeText(Date.parse(at), zone, nowMs)}`;
    case "refused":
      return "not taken";
    case "unsure":
      return "nobody knows whether it went";
    case "sent": {
      const left = recipients.filter((one) => one.state === "refused").length;
      return left === 1 ? "one did not get it" : `${left} did not get it`;
    }
  }
}
