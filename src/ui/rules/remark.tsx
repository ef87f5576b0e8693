import type { RuleShape } from "@/core/api";
import { LONGEST_REMARK } from "@/core/rule";
import { changeRule } from "./edits";

interface Props {
  readonly rule: RuleShape;
  readonly name: string;
  readonly isOpen: boolean;
  readonly onOpen: (isOpen: boolean) => void;
}

/** What is written beside a rule: by its owner, or by the script it came from. */
export function Remark({ rule, name, isOpen, onOpen }: Props) {
  const close = (text: string) => {
    onOpen(false);
    const remark = text.trim() === "" ? null : text.trim();
    if (remark !== rule.remark)
      void changeRule(rule, { remark }, `Changed what is written beside ${name.toLowerCase()}`);
  };
  if (isOpen)
    return (
      <textarea
        autoFocus
        aria-label={`${name}: remark`}
        defaultValue={rule.remark ?? ""}
        maxLength={LONGEST_REMARK}
        rows={3}
        onBlur={({ target }) => close(target.value)}
        onKeyDown={({ key, currentTarget }) => {
          if (key === "Escape") {
            currentTarget.value = rule.remark ?? "";
            currentTarget.blur();
          }
        }}
        className="w-full rounded-sm border border-edge bg-sheet px-2 py-1 text-[13px] md:col-span-3 md:col-start-2"
      />
    );
  if (rule.remark === null) return null;
  return (
    <button
      type="button"
      aria-label={`${name}: change the remark`}
      onClick={() => onOpen(true)}
      className="w-full truncate text-left text-[13px] text-ink-2 italic md:col-span-3 md:col-start-2"
      title={rule.remark}
    >
      {rule.remark}
    </button>
  );
}
