import { STATE_BIT } from "@/core/columns";
import type { Range } from "@/core/calendar";
import { mailbox } from "../state/store";
import type { Due } from "./week";

/** Messages whose flag is due in a range. */
export function flagsDue({ from, to }: Range): Due[] {
  const { bits, dueMs, id, count } = mailbox.columns;
  const out: Due[] = [];
  for (let row = 0; row < count; row++) {
    // Flags without a date have none that lies anywhere.
    if ((bits[row]! & STATE_BIT.flagged) === 0 || !(dueMs[row]! >= from && dueMs[row]! < to)) continue;
    const subject = mailbox.facts(mailbox.idAt(row))?.subject ?? "";
    out.push({ key: `flag ${id[row]}`, at: dueMs[row]!, text: `flag: ${subject}` });
  }
  return out;
}
