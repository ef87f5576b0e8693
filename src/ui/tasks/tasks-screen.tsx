"use client";
import { useQuery } from "@tanstack/react-query";
import { useRouter } from "next/navigation";
import { useEffect, useMemo, useRef } from "react";
import { grouped, type TaskGroup } from "@/core/agenda";
import type { TaskShape } from "@/core/api";
import { useFocusIn } from "../parts/focus-in";
import { useKeptChoice } from "../parts/kept-choice";
import { Choice } from "../parts/choice";
import { HeaderNotice } from "../parts/notice";
import { useNow } from "../parts/now";
import { useScreenKeys } from "../parts/screen-keys";
import { countText, plural } from "../parts/words";
import { focusMessage, goToPlace } from "../state/browse";
import { tasksAddress } from "../state/api";
import { redoLast, undoLast } from "../state/edits";
import { tasks as tasksRead } from "../state/reads";
import { useView } from "../state/store";
import { giveTime } from "../agenda/acts";
import { changeTask, lasting, putTask, removeTask } from "./acts";
import { QuickEntry } from "./quick-entry";
import { TaskBoard } from "./task-board";
import { FIRST_FIELD, TaskDetails } from "./task-details";
import { useTaskKeys } from "./task-keys";
import { TaskMessage } from "./task-message";
import { TaskRow } from "./task-row";
import { GROUP_KEYS, GROUP_TEXT } from "./words";

const VIEWS = ["list", "board"] as const;

/** What is to be done, the most pressing first, beside the messages it came from. */
export function TasksScreen() {
  const router = useRouter();
  const zone = useView((v) => v.home?.person.zone ?? "UTC");
  const dialog = useView((v) => v.dialog);
  const { data, error, refetch } = useQuery(tasksRead);
  const [shown, setShown] = useKeptChoice("tasks view", VIEWS);
  const entry = useRef<HTMLInputElement>(null);
  const now = new Date(useNow(30_000));
  const minute = Math.floor(now.getTime() / 60_000);
  const groups = useMemo(() => grouped(data ?? [], new Date(minute * 60_000), zone), [data, zone, minute]);
  const all = useMemo(() => groups.flatMap(({ tasks }) => tasks), [groups]);
  const { place, isChosen, moves, ...focus } = useFocusIn(all.map(({ id }) => lasting(id)));
  const focused = all[place] ?? null;
  const left = all.filter(({ done }) => !done).length;
  const choose = (task: TaskShape | undefined) => focus.choose(task ? lasting(task.id) : null);
  useEffect(() => {
    document.querySelector(`[data-task="${focused?.id}"]`)?.scrollIntoView({ block: "nearest" });
  }, [focused?.id]);
  /** After a decision the next one is at hand. */
  const onward = () => choose(all[place + 1] ?? all[place - 1]);
  const put = (group: TaskGroup) => focused && putTask(focused, group) && onward();
  const remove = () => {
    if (!focused) return;
    void removeTask(focused);
    onward();
  };
  const open = ({ message }: TaskShape) => {
    if (message === null) return;
    goToPlace("");
    focusMessage(message);
    router.push("/");
  };
  useTaskKeys(dialog === null, { put, remove, giveTime: () => focused && void giveTime(focused) });
  useScreenKeys({
    ...moves,
    tick: () => {
      if (!focused) return;
      void changeTask(focused, { done: !focused.done });
      onward();
    },
    open: () => focused && open(focused),
    read: () => document.getElementById(FIRST_FIELD)?.focus(),
    compose: () => entry.current?.focus(),
    undo: () => void undoLast(),
    redo: () => void redoLast(),
  });
  return (
    <main id="main" className="flex h-full flex-col" data-ready>
      <header className="flex min-h-[46px] flex-wrap items-center gap-x-3 gap-y-1 border-b border-rule px-3.5 py-1.5">
        <h1 className="text-[15px] font-bold">Tasks</h1>
        <span className="text-[13px] text-ink-2">{data && `${plural(left, "task")} to do`}</span>
        <HeaderNotice />
        {data && data.length > 0 && (
          <a href={tasksAddress} download className="text-[13px] underline">
            as a file
          </a>
        )}
        <Choice label="Shown as" options={VIEWS} value={shown} onChoose={setShown} />
      </header>
      {error && (
        <p role="alert" className="bg-brick-soft px-3.5 py-2">
          {error.message}{" "}
          <button type="button" onClick={() => void refetch()} className="underline">
            Read again
          </button>
        </p>
      )}
      <QuickEntry field={entry} onAdded={focus.choose} />
      <div className={`grid min-h-0 flex-1 ${shown === "list" ? "lg:grid-cols-2" : "grid-rows-[minmax(0,1fr)_auto]"}`}>
        <div className="flex min-h-0 flex-col overflow-y-auto">
          {!data && !error && (
            <p role="status" className="px-3.5 py-3">
              Reading the tasks…
            </p>
          )}
          {data?.length === 0 && (
            <p className="px-3.5 py-3 text-ink-2">
              Nothing is to be done yet. Write a task above (<kbd>N</kbd> leads there): when, how long and “!” stand at
              its end. A macro with the step <i>make task</i> makes one of a message; the starter deck has one on T.
            </p>
          )}
          {shown === "list"
            ? groups.map(({ group, tasks }) => (
                <section key={group} aria-label={GROUP_TEXT[group]}>
                  <h2
                    className={`flex items-baseline gap-2 border-b border-rule bg-well px-3.5 py-1 text-[13px] font-bold ${group === "overdue" ? "text-brick" : ""}`}
                  >
                    {GROUP_TEXT[group]}
                    <span className="num font-normal text-ink-2">{countText(tasks.length)}</span>
                    <span className="flex-1" />
                    {GROUP_KEYS[group] && <kbd title="Puts the task here">{GROUP_KEYS[group]}</kbd>}
                  </h2>
                  <ul>
                    {tasks.map((task) => (
                      <TaskRow
                        key={lasting(task.id)}
                        task={task}
                        zone={zone}
                        now={now}
                        late={group === "overdue"}
                        focused={task === focused}
                        onFocus={() => choose(task)}
                      />
                    ))}
                  </ul>
                </section>
              ))
            : data && (
                <TaskBoard
                  groups={new Map(groups.map(({ group, tasks }) => [group, tasks]))}
                  focused={focused?.id ?? null}
                  zone={zone}
                  now={now}
                  onFocus={(id) => focus.choose(lasting(id))}
                />
              )}
        </div>
        {focused && (
          <div
            className={`min-h-0 overflow-y-auto border-rule max-lg:border-t ${isChosen ? "" : "max-md:hidden"} ${shown === "list" ? "lg:border-l" : "border-t"}`}
          >
            <TaskDetails key={lasting(focused.id)} task={focused} zone={zone} />
            {shown === "list" && <TaskMessage task={focused} onOpen={() => open(focused)} />}
          </div>
        )}
      </div>
      <footer className="border-t border-rule px-3.5 py-1.5 text-[13px] text-ink-2 max-md:hidden">
        <kbd>J</kbd> <kbd>K</kbd> move, <kbd>I</kbd> done, <kbd>1</kbd> today, <kbd>2</kbd> this week, <kbd>3</kbd>{" "}
        later, <kbd>4</kbd> no date, <kbd>5</kbd> waiting, <kbd>T</kbd> gives it time, <kbd>Space</kbd> changes it,{" "}
        <kbd>N</kbd> a new one, <kbd>Enter</kbd> opens its message, <kbd>Del</kbd> deletes, <kbd>U</kbd> takes back.
      </footer>
    </main>
  );
}
