import { useLayoutEffect, type RefObject } from "react";
import { provide } from "../bench/commands";
import { focusMessage } from "../state/browse";
import { mailbox, notify, view } from "../state/store";
import { bringToFront } from "../state/reflect";
import type { Reading } from "./use-message";

/** Rather a few lines twice than one never seen. */
const OVERLAP_PX = 60;
const LEAST_PX = 80;

/** Goes to the next or the previous message of the thread, or says where that is. */
function stepInThread(id: number | null, direction: 1 | -1, own: boolean): void {
  if (id === null) return;
  // The columns know the thread: nobody has to wait for the message to have been read.
  const ids = mailbox.threadOf(id);
  const next = ids[ids.indexOf(id) + direction];
  if (next === undefined)
    return notify(
      direction > 0 ? "This is the last message of the thread." : "This is the first message of the thread.",
    );
  if (focusMessage(next) || (own && bringToFront(next))) return;
  const folder = view().directory.folders.find((one) => one.id === mailbox.columns.folder[mailbox.rowOf(next)!]);
  notify(
    `The ${direction > 0 ? "next" : "earlier"} message is ${folder ? `in ${folder.path}` : "elsewhere"}, outside this list. Open it in the thread below.`,
  );
}

/** What keys do in the message. @param own whether it is in a window of its own, which goes wherever the thread is */
export function useReaderCommands(
  box: RefObject<HTMLElement | null>,
  id: number | null,
  phase: Reading["phase"],
  own: boolean,
): void {
  // Before the next key can come: it must not be answered for the message before.
  useLayoutEffect(() => {
    provide({
      readPage: (direction) => {
        const element = box.current;
        if (!element) return false;
        // A message that is still coming has not been read to its end.
        if (phase === "coming") return true;
        const before = element.scrollTop;
        element.scrollBy(0, direction * Math.max(LEAST_PX, element.clientHeight - OVERLAP_PX));
        return element.scrollTop !== before;
      },
      print: () => (phase === "here" ? window.print() : notify("Open a message first.")),
      threadStep: (direction) => stepInThread(id, direction, own),
    });
  }, [box, id, phase, own]);
}
