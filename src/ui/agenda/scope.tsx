import { useHeard } from "../input/heard";
import { SCOPES, type Scope } from "@/core/calendar";
import { Modal } from "../parts/picker";

interface Props {
  /** What is done to it: "Change", "Delete". */
  readonly verb: string;
  readonly title: string;
  readonly onChoose: (scope: Scope) => void;
  readonly onClose: () => void;
}

const TEXT: Record<Scope, string> = {
  one: "only this one",
  following: "this one and all that follow",
  all: "all of them",
};

/** Of what comes again, which are meant. */
export function ScopeChoice({ verb, title, onChoose, onClose }: Props) {
  const down = (event: KeyboardEvent) => {
    const scope = SCOPES[Number(/^Digit([123])$/.exec(event.code)?.[1] ?? 0) - 1];
    if (!scope || event.ctrlKey || event.altKey || event.metaKey) return;
    event.preventDefault();
    event.stopPropagation();
    onChoose(scope);
  };
  useHeard("keydown", down, { capture: true });
  return (
    <Modal title={`${verb}: ${title}`} onClose={onClose}>
      <p className="px-4 pt-3 text-[13px] text-ink-2">It comes again. Which are meant?</p>
      <div className="grid gap-1.5 p-4">
        {SCOPES.map((scope, i) => (
          <button
            key={scope}
            type="button"
            autoFocus={i === 0}
            onClick={() => onChoose(scope)}
            className="flex items-center gap-3 rounded-sm border border-edge bg-sheet px-3 py-1.5 text-left"
          >
            <kbd>{i + 1}</kbd> {TEXT[scope]}
          </button>
        ))}
      </div>
    </Modal>
  );
}
