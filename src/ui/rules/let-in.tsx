import { useQuery } from "@tanstack/react-query";
import { plural } from "@/core/text";
import { write } from "../state/api";
import { hours, reads } from "../state/reads";
import { notify } from "../state/store";
import { inLine } from "../state/writes";

async function letIn(): Promise<void> {
  try {
    const { messages } = await inLine(() => write<{ messages: number }>("POST", "/hours/open"));
    notify(`Let in ${plural(messages, "message")}. U lets ${messages === 1 ? "it" : "them"} wait again.`);
  } catch (error) {
    notify(error instanceof Error ? error.message : "The server does not answer. Try again.", "trouble");
  }
  await reads.invalidateQueries({ queryKey: hours.queryKey });
}

/** Lets in at once what waits for its hours; nothing where nothing does. */
export function LetIn() {
  const { data } = useQuery(hours);
  if (!data || data.waiting === 0) return null;
  return (
    <button
      type="button"
      onClick={() => void letIn()}
      className="rounded-sm border border-edge bg-sheet px-2 py-0.5 text-[13px]"
    >
      Let {data.waiting === 1 ? "it" : "them"} in now
    </button>
  );
}
