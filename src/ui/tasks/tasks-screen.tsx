"use client";
import { useRouter } from "next/navigation";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { TaskShape } from "@/core/api";
import { useNow } from "../parts/now";
import { useScreenKeys } from "../parts/screen-keys";
import { dateText, plural } from "../parts/words";
import { MessageView } from "../reader/message-view";
import { useMessage } from "../reader/use-message";
import { write } from "../state/api";
import { focusMessage, goToPlace } from "../state/browse";
import { reads, tasks as tasksRead } from "../state/reads";
import { useView } from "../state/store";

/** The message a task is about, beside the tasks. */
function TaskMessage({ task }: { readonly task: TaskShape | null }) {
  const reading = useMessage(task?.message ?? null, 0);
  if (!task) return <div className="max-lg:hidden" />;
  return (
    <section
      aria-label="The task’s message"
      tabIndex={0}
      className="min-h-0 overflow-y-auto border-l border-rule px-[18px] py-3.5 max-lg:hidden"
    >
      {task.message === null && <p className="text-ink-2">Its message is deleted. It was: {task.about}</p>}
      {reading.phase === "failed" && <p role="alert">{reading.why}</p>}
      {reading.phase === "coming" && <p role="status">Reading the message…</p>}
      {reading.phase === "here" && <MessageView key={reading.message.id} message={reading.message} sought={NOTHING} />}
    </section>
  );
}

const NOTHING: readonly string[] = [];

/** Tasks that macros have made, the most pressing on top; each leads back to its message. */
export function TasksScreen() {
  const router = useRouter();
  const home = useView((v) => v.home);
  const zone = home?.person.zone ?? "UTC";
  const read = useQuery(tasksRead);
  const tasks = read.data ?? null;
  const [chosenId, setChosen] = useState<number | null>(null);
  const [stored, setStored] = useState<string | null>(null);
  const problem = stored ?? read.error?.message ?? null;
  const nowMs = useNow(60_000);
  useScreenKeys();
  const show = (id: number, next: Partial<TaskShape>) =>
    reads.setQueryData(tasksRead.queryKey, (now) => now?.map((t) => (t.id === id ? { ...t, ...next } : t)));
  const change = async (task: TaskShape, patch: Partial<TaskShape>) => {
    show(task.id, patch);
    setStored(null);
    try {
      await write("PATCH", `/tasks/${task.id}`, patch);
    } catch (error) {
      setStored(error instanceof Error ? `Not stored: ${error.message}` : "Not stored.");
      show(task.id, task);
    }
  };
  const open = (message: number) => {
    goToPlace("");
    focusMessage(message);
    router.push("/");
  };
  const chosen = tasks?.find((task) => task.id === chosenId) ?? tasks?.[0] ?? null;
  const left = tasks?.filter((task) => !task.done).length ?? 0;
  return (
    <main id="main" className="flex h-full flex-col" data-ready>
      <header className="flex min-h-[46px] items-center gap-3 border-b border-rule px-3.5">
        <h1 className="text-[15px] font-bold">Tasks</h1>
        <span className="text-[13px] text-ink-2">{tasks ? `${plural(left, "task")} to do` : ""}</span>
        {problem && (
          <p role="alert" className="text-[13px] text-brick">
            {problem}
          </p>
        )}
      </header>
      <div className="grid min-h-0 flex-1 lg:grid-cols-2">
        <div className="min-h-0 overflow-y-auto px-3.5 py-2">
          {!tasks && !problem && <p role="status">Reading the tasks…</p>}
          {tasks?.length === 0 && (
            <p className="py-4 text-ink-2">
              There are no tasks yet. A macro with the step “Make task” makes them; the starter deck has one on T.
            </p>
          )}
          <ul>
            {tasks?.map((task) => {
              const late = !task.done && task.due !== null && Date.parse(task.due) < nowMs;
              return (
                <li
                  key={task.id}
                  className="grid grid-cols-[20px_minmax(0,1fr)_auto] items-center gap-x-3 border-b border-rule py-1.5 text-[13.5px]"
                >
                  <input
                    type="checkbox"
                    aria-label={`${task.title}, done`}
                    checked={task.done}
                    onChange={(event) => void change(task, { done: event.target.checked })}
                  />
                  <button
                    type="button"
                    aria-pressed={task === chosen}
                    onClick={() => setChosen(task.id)}
                    className={`truncate text-left ${task.done ? "text-ink-3 line-through" : "font-semibold"} ${task === chosen ? "underline" : ""}`}
                  >
                    {task.title}
                  </button>
                  <span className={`num text-xs ${late ? "font-bold text-brick" : "text-ink-2"}`}>
                    {task.due && `due ${dateText(task.due, zone, new Date())}`}
                    {task.estimate !== null && ` · ${task.estimate} min`}
                  </span>
                  <span className="col-start-2 truncate text-xs text-ink-2">{task.about}</span>
                  {task.message === null ? (
                    <span className="text-xs text-ink-3">message deleted</span>
                  ) : (
                    <button
                      type="button"
                      onClick={() => open(task.message!)}
                      className="justify-self-end text-xs underline"
                    >
                      open the message
                    </button>
                  )}
                </li>
              );
            })}
          </ul>
        </div>
        <TaskMessage task={chosen} />
      </div>
    </main>
  );
}
