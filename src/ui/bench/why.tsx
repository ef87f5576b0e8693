"use client";
import { explain, LOCAL_ACCOUNT, soughtIn, type Reason } from "@/core/narrow";
import { accountName } from "@/core/place";
import { Modal } from "../parts/picker";
import { ageText, dateText, sizeText } from "../parts/words";
import { expressionOf } from "../state/browse";
import { verdictFor } from "../state/listed";
import { wordsKnown } from "../state/words";
import { mailbox, set, useView, view } from "../state/store";

const close = () => set({ dialog: null });

/** What the message has where a condition looks, in words. */
function valueOf(condition: string, row: number): string {
  const field = /^!?\(?([a-z]+)[=~<>]/.exec(condition)?.[1];
  const { columns } = mailbox;
  const { directory, home } = view();
  const zone = home?.person.zone ?? "UTC";
  const date = (ms: number) => (Number.isNaN(ms) ? "none" : dateText(new Date(ms).toISOString(), zone, new Date()));
  switch (field) {
    case "from":
    case "anyone":
      return `${mailbox.text(row, "fromName")} ${mailbox.text(row, "fromAddress")}`.trim();
    case "to":
    case "cc":
    case "via":
    case "list":
    case "file":
    case "note":
    case "subject":
      return mailbox.text(row, field) || "none";
    case "folder":
      return directory.folders.find((folder) => folder.id === columns.folder[row])?.path ?? "";
    case "account": {
      const account = directory.accounts?.find(({ id }) => id === columns.account[row]);
      return account ? accountName(account) : LOCAL_ACCOUNT;
    }
    case "label": {
      const set = columns.labelSets[columns.labelSet[row]!]!;
      const names = directory.labels.filter((label) => set.includes(label.id)).map((label) => label.name);
      return names.join(", ") || "none";
    }
    case "marker":
      return directory.markers.find((marker) => marker.id === columns.marker[row])?.letter ?? "none";
    case "size":
      return sizeText(columns.size[row]!);
    case "age":
      return ageText(Date.now() - columns.dateMs[row]!);
    case "date":
      return date(columns.dateMs[row]!);
    case "due":
      return date(columns.dueMs[row]!);
    case "deferred":
      return date(columns.deferMs[row]!);
    default:
      return "";
  }
}

/** What only the server knows is known where it was asked. */
function answer({ condition, holds }: Reason, id: number): boolean | null {
  if (holds !== null) return holds;
  const sought = soughtIn(condition);
  const known = sought.map((word) => wordsKnown(` ${word}`) ?? wordsKnown(` ${word} `));
  return known.length > 0 && known.every(Boolean) ? known.some((ids) => ids!.has(id)) : null;
}

/** Why the focused message is in the list: each condition, and what the message has for it. */
export function Why() {
  const focusId = useView((v) => v.focusId);
  const place = useView((v) => v.place);
  const conditions = useView((v) => v.conditions);
  const directory = useView((v) => v.directory);
  const verdict = useView((v) => (v.focusId === null ? undefined : verdictFor(v.focusId)));
  const row = focusId === null ? undefined : mailbox.rowOf(focusId);
  if (row === undefined || focusId === null)
    return (
      <Modal title="Why is it here?" onClose={close}>
        <p className="p-4">Put the focus on a message first.</p>
      </Modal>
    );
  const zone = view().home?.person.zone ?? "UTC";
  const reasons = explain(expressionOf(place, conditions), mailbox.at(row), { directory, now: new Date(), zone });
  return (
    <Modal title="Why is it here?" onClose={close}>
      <div className="max-h-[60vh] overflow-y-auto p-4 text-[13px]">
        <p className="mb-2 font-semibold">{mailbox.text(row, "subject") || "(no subject)"}</p>
        {reasons.length === 0 && <p>The list shows all mail.</p>}
        <table className="w-full">
          <tbody>
            {reasons.map((reason, i) => {
              const holds = answer(reason, focusId);
              return (
                <tr key={i} className="border-b border-rule align-top">
                  <td className="py-1.5 pr-3 font-mono text-xs break-words">{reason.condition}</td>
                  <td className={`py-1.5 pr-3 whitespace-nowrap ${holds === false ? "font-bold text-brick" : ""}`}>
                    {holds === null ? "asks for its words" : holds ? "holds" : "does not hold"}
                  </td>
                  <td className="py-1.5 break-words text-ink-2">{valueOf(reason.condition, row)}</td>
                </tr>
              );
            })}
          </tbody>
        </table>
        {verdict && <p className="mt-3">It was decided just now ({verdict}) and stays in sight until it is settled.</p>}
      </div>
    </Modal>
  );
}
