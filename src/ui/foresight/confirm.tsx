"use client";
import { useQuery } from "@tanstack/react-query";
import type { MacroShape } from "@/core/api";
import { messageId } from "@/core/id";
import { abilitiesOf, type Answers } from "@/core/macro";
import { Modal } from "../parts/picker";
import { TONE } from "../parts/tone";
import { countText, plural } from "../parts/words";
import type { RunDecision } from "../state/decide";
import { runMacro } from "../state/run";
import { tasks } from "../state/reads";
import { mailbox, set, view, type Seen } from "../state/store";
import { Letters } from "./letters";
import { PlanTable } from "./plan-table";

interface Props {
  readonly macro: MacroShape;
  readonly ids: readonly number[];
  readonly described: RunDecision["described"];
  readonly answers: Answers;
  /** How many were chosen; the others belong to their threads. */
  readonly chosen: number;
  readonly seen: Seen;
}

const SHOWN = 6;
const close = () => set({ dialog: null });

/** What hangs on messages that are to be deleted for good, and goes out of sight with them. */
function Losses({ plan }: { readonly plan: Seen["plan"] }) {
  const { data: open = [] } = useQuery(tasks);
  const gone = new Set<number>();
  for (const [id, edits] of plan.change.messages)
    if (edits.some((edit) => edit.kind === "gone" && edit.after)) gone.add(id);
  const flagged = [...gone].filter((id) => mailbox.state(messageId(id))?.flag).length;
  const tasked = open.filter((task) => !task.done && task.message !== null && gone.has(task.message)).length;
  if (flagged + tasked === 0) return null;
  return (
    <p className="mb-3 rounded-md bg-amber-soft px-3 py-2">
      {[
        flagged > 0 && `${countText(flagged)} of them ${flagged === 1 ? "has a flag" : "have flags"}`,
        tasked > 0 && `${plural(tasked, "open task")} ${tasked === 1 ? "is" : "are"} about them`,
      ]
        .filter(Boolean)
        .join(", and ")}
      . {flagged > 0 && "Flags go with their messages. "}
      {tasked > 0 && "Tasks stay, with a copy of sender and subject."}
    </p>
  );
}

/** Says exactly what a run will do, and does it only when the person agrees. */
export function Confirm({ macro, ids, described, answers, chosen, seen }: Props) {
  const planned = seen.plan;
  const deleted = planned.gone > 0;
  return (
    <Modal title={`${macro.name} on ${plural(ids.length, "message")}`} onClose={close} wide>
      <div className="max-h-[60vh] overflow-y-auto p-4">
        {deleted && (
          <p className="mb-3 rounded-md bg-brick-soft px-3 py-2">
            {plural(planned.gone, "message")} will be deleted for good, with {planned.gone === 1 ? "its" : "their"}{" "}
            attachments. Nothing brings them back: undo does not reach this.
          </p>
        )}
        {deleted && <Losses plan={planned} />}
        {!deleted && planned.unknown.length > 0 && abilitiesOf(macro, view().macros).confirms && (
          <p className="mb-3 rounded-md bg-brick-soft px-3 py-2">
            It deletes for good where the text of a message says so, which only the server reads: up to{" "}
            {plural(planned.unknown.length, "message")} may go, and nothing brings them back.
          </p>
        )}
        {ids.length > chosen && (
          <p className="mb-3">
            {countText(chosen)} chosen, and {countText(ids.length - chosen)} more of {chosen === 1 ? "its" : "their"}{" "}
            {chosen === 1 ? "thread" : "threads"}
            {macro.settings.whole === "thread everywhere"
              ? ", wherever they are: your own mail and junk among them."
              : ", in the same place."}
          </p>
        )}
        {planned.things.some(({ kind }) => kind === "letter") && <Letters macro={macro} ids={ids} answers={answers} />}
        <PlanTable plan={planned} ids={ids} most={SHOWN} />
        <div className="mt-4 flex gap-2">
          <button
            type="button"
            autoFocus={!deleted}
            onClick={() => runMacro(macro, { ids, described, answers, agreed: seen })}
            className={`rounded-sm px-3 py-1.5 font-semibold ${deleted ? TONE.brick : "bg-ink text-paper"}`}
          >
            {deleted ? `Delete ${countText(planned.gone)} for good` : `Run on ${countText(ids.length)}`}
          </button>
          <button
            type="button"
            // What cannot be undone is not one Enter away.
            autoFocus={deleted}
            onClick={close}
            className="rounded-sm border border-edge bg-sheet px-3 py-1.5"
          >
            Leave everything as it is
          </button>
        </div>
      </div>
    </Modal>
  );
}
