import { useQuery } from "@tanstack/react-query";
import type { EntryShape, RuleShape } from "@/core/api";
import { write } from "../state/api";
import { reads, rules } from "../state/reads";
import { notify } from "../state/store";

/** "rule 7" */
const ruleIn = (cause: string | null): number | null => Number(/^rule (\d+)$/.exec(cause ?? "")?.[1] ?? 0) || null;

/** Of what a rule did: for those who wrote these messages it is not to do it again. */
export function NotByThisRule({
  entry,
  messages,
}: {
  readonly entry: EntryShape;
  readonly messages: readonly number[];
}) {
  const id = ruleIn(entry.cause);
  const { data } = useQuery({ ...rules, enabled: id !== null });
  const rule = data?.find((one) => one.id === id);
  if (!rule || messages.length === 0) return null;
  const except = async () => {
    try {
      const changed = await write<RuleShape>("POST", `/rules/${rule.id}/except`, { ids: messages.slice(0, 1000) });
      await reads.invalidateQueries({ queryKey: rules.queryKey });
      notify(`The rule is for ${changed.narrow} now. What it did is taken back by undo.`);
    } catch (error) {
      notify(error instanceof Error ? error.message : "It could not be stored. Try again.", "trouble");
    }
  };
  return (
    <p className="mb-1 flex flex-wrap items-center gap-2 text-[13px]">
      <span className="text-ink-2">
        By a rule for {rule.narrow === "" ? "all mail that comes in" : <code>{rule.narrow}</code>}
      </span>
      <button
        type="button"
        onClick={() => void except()}
        className="rounded-sm border border-rule bg-sheet px-2 text-xs"
      >
        Not by this rule again
      </button>
    </p>
  );
}
