import { dueIn, nextTime, type Quick, type TaskGroup } from "@/core/agenda";
import type { TaskShape } from "@/core/api";
import { dateText } from "../parts/words";
import { write } from "../state/api";
import { storeByHand } from "../state/hands";
import { reads, tasks as tasksRead } from "../state/reads";
import { notify, view } from "../state/store";

/** What is done to tasks: shown at once, stored in order, and each an entry that undo takes back. */

export type TaskFields = Pick<TaskShape, "title" | "due" | "estimate" | "pressing" | "waiting" | "repeat" | "done">;

const zone = (): string => view().home?.person.zone ?? "UTC";

function show(change: (all: readonly TaskShape[]) => TaskShape[]): void {
  // What is being read is old by now, and must not come back over it.
  void reads.cancelQueries({ queryKey: tasksRead.queryKey });
  reads.setQueryData(tasksRead.queryKey, (all) => all && change(all));
}

const store = (send: () => Promise<unknown>, said: string): Promise<boolean> =>
  storeByHand(send, said, tasksRead.queryKey);

/** A task has a number of its own from when it is written down until its row says what the server calls it. */
const called = new Map<number, number>();
const first = new Map<number, number>();
let last = 0;
/** What the server calls it. */
export const storedId = (task: TaskShape): number => called.get(task.id) ?? task.id;
/** What a task is known by as long as the screen is there: the same before and after it was stored. */
export const lasting = (id: number): number => first.get(id) ?? id;

/** Also where one was shown before it was stored, and the other behind that. */
const isSame = (a: TaskShape, b: TaskShape): boolean => lasting(a.id) === lasting(b.id);

/**
 * Writes a task down: it is there at once, and may be changed before it is stored.
 * @returns what it is known by, and whether it was stored
 */
export function addTask(quick: Quick): { readonly id: number; readonly stored: Promise<boolean> } {
  const id = --last;
  const task: TaskShape = { ...quick, id, message: null, about: "", done: false, waiting: false };
  show((all) => [...all, task]);
  const send = async () => {
    const made = await write<TaskShape>("POST", "/tasks", quick);
    called.set(id, made.id);
    first.set(made.id, id);
  };
  return { id, stored: store(send, `To do: ${quick.title}.`) };
}

export async function changeTask(task: TaskShape, patch: Partial<TaskFields>): Promise<boolean> {
  const now = new Date();
  const isNext = patch.done === true && !task.done && task.repeat !== null && task.due !== null;
  const shown = isNext ? nextTime(task.due!, task.repeat!, now, zone()) : patch;
  show((all) => all.map((one) => (isSame(one, task) ? { ...one, ...shown } : one)));
  const said = isNext
    ? `Done: ${task.title}, and due again ${dateText(shown.due!, zone(), now)}.`
    : patch.done === undefined
      ? `Changed ${patch.title ?? task.title}.`
      : `${patch.done ? "Done" : "Open again"}: ${task.title}.`;
  return store(() => write("PATCH", `/tasks/${storedId(task)}`, patch), said);
}

export function removeTask(task: TaskShape): Promise<boolean> {
  show((all) => all.filter((one) => !isSame(one, task)));
  return store(() => write("DELETE", `/tasks/${storedId(task)}`), `Deleted ${task.title}.`);
}

/** Puts a task where it is to stand: due then, waiting, or done. @returns whether it could be put there */
export function putTask(task: TaskShape, group: TaskGroup): boolean {
  if (group === "done") {
    void changeTask(task, { done: true });
    return true;
  }
  const due = dueIn(group, task.due, new Date(), zone());
  if (due === undefined) {
    notify(group === "week" ? "The week ends today: later, or today." : "Nothing is put off into the past.", "trouble");
    return false;
  }
  if (due === null && task.repeat !== null) {
    notify("What comes again needs a date: let it come once only first.", "trouble");
    return false;
  }
  void changeTask(task, {
    due,
    waiting: group === "waiting",
    ...(task.done ? { done: false } : {}),
  });
  return true;
}
