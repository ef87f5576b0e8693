import type { TaskShape } from "@/core/api";
import { MessageView } from "../reader/message-view";
import { useMessage } from "../reader/use-message";

const NOTHING: readonly string[] = [];

interface Props {
  readonly task: TaskShape;
  readonly onOpen: () => void;
}

/** The message a task is about; of one that is deleted, what the task has kept. */
export function TaskMessage({ task, onOpen }: Props) {
  const reading = useMessage(task.message, 0);
  if (task.message === null)
    return task.about === "" ? null : (
      <p className="px-[18px] py-3.5 text-[13px] text-ink-2">Its message is deleted. It was: {task.about}</p>
    );
  return (
    <section aria-label="The task’s message" tabIndex={0} className="px-[18px] py-3.5">
      <button type="button" onClick={onOpen} className="mb-2 text-xs underline">
        open the message
      </button>
      {reading.phase === "failed" && <p role="alert">{reading.why}</p>}
      {reading.phase === "coming" && <p role="status">Reading the message…</p>}
      {reading.phase === "here" && <MessageView key={reading.message.id} message={reading.message} sought={NOTHING} />}
    </section>
  );
}
