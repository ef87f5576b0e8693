import { STATE_BIT, textAt } from "@/core/columns";
import { importanceOf, type Weighed } from "@/core/list";
import { correspondents, reads } from "./reads";
import { mailbox, view } from "./store";

/** How important messages are: what the columns know of them, and whom the person knows. */

let contacts: ReadonlySet<string> = new Set();
let answered: ReadonlySet<string> = new Set();
let asked = false;

/** Reads whom the person knows, once they are needed. @param then what is shown anew with them */
export function askWhoIsKnown(then: () => void): void {
  if (asked) return;
  asked = true;
  reads.fetchQuery(correspondents).then(
    ({ people }) => {
      contacts = new Set(people.filter(({ contact }) => contact).map(({ address }) => address));
      answered = new Set(people.filter(({ times }) => times > 0).map(({ address }) => address));
      then();
    },
    () => (asked = false),
  );
}

/** Weighs the message in a row. @param now milliseconds since 1970 */
export function weigh(row: number, now: number): Weighed {
  const { columns } = mailbox;
  const address = textAt(columns, "fromAddress", row).toLowerCase();
  const marker = columns.marker[row]!;
  return importanceOf(
    {
      flagged: (columns.bits[row]! & STATE_BIT.flagged) !== 0,
      dueMs: columns.dueMs[row]!,
      marker: view().directory.markers.findIndex(({ id }) => id === marker),
      contact: contacts.has(address),
      owed: (columns.bits[row]! & STATE_BIT.owed) !== 0,
      answered: answered.has(address),
      dateMs: columns.dateMs[row]!,
    },
    now,
  );
}
