import { QueryObserver } from "@tanstack/react-query";
import { asksForTasks, type Test } from "@/core/narrow";
import { openTasks, reads } from "./reads";
import { mailbox } from "./store";

/**
 * Tasks are beside messages: which are open, and when they are due, is read when a narrowing or a macro first asks for
 * it, and kept right from then on.
 */
const waiting = new Set<() => void>();
let isRead = false;
let last = "";

export function keepTasksRead(): void {
  if (isRead) return;
  isRead = true;
  new QueryObserver(reads, openTasks).subscribe(({ data }) => {
    if (data === undefined) return;
    // What is read anew is mostly the same.
    const now = [...data].join(";");
    if (now === last && mailbox.cursor.openTasks !== null) return;
    last = now;
    mailbox.useTasks(data);
    for (const done of waiting) done();
  });
}

/** Whether what the expression asks for is not known yet. */
export const waitsForTasks = (test: Test): boolean => mailbox.cursor.openTasks === null && asksForTasks(test);

/** @param done called now and again, whenever what the expression asks for may have other answers */
export function askForTasks(test: Test, done: () => void): void {
  if (!asksForTasks(test)) return;
  waiting.add(done);
  keepTasksRead();
}
