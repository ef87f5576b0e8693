import { useMemo, useState } from "react";
import type { MacroShape } from "@/core/api";
import { checkMacro } from "@/core/macro";
import { Modal } from "../parts/picker";
import { plural } from "../parts/words";
import { useView, view } from "../state/store";
import { planContext } from "../state/decide";
import { createMacro } from "../workshop/edit";
import { MacroHead } from "../workshop/macro-head";
import { Steps } from "../workshop/steps";
import { boundAt } from "../workshop/where-bound";

/** The steps of a rule's macro, where the rule is: the workshop's own editor. */
function StepsDialog({ macro, onClose }: { readonly macro: MacroShape; readonly onClose: () => void }) {
  const directory = useView((v) => v.directory);
  const macros = useView((v) => v.macros);
  const keys = useView((v) => boundAt(v.decks, macro.id).length);
  const findings = useMemo(() => {
    // These are what the context is made from.
    void [directory, macros];
    return checkMacro(macro, { ...planContext(), now: new Date() });
  }, [macro, directory, macros]);
  return (
    <Modal title={`Steps of ${macro.name}`} onClose={onClose} wide>
      <div className="max-h-[68vh] overflow-y-auto px-4 py-3">
        {keys > 0 && (
          <p className="mb-2 text-[13px] text-ink-2">
            It is on {plural(keys, "key")} too: they do what is changed here.
          </p>
        )}
        <MacroHead macro={macro} />
        <Steps macro={macro} findings={findings} />
        <div className="mt-3 flex justify-end">
          <button type="button" onClick={onClose} className="rounded-sm bg-ink px-3 py-1 text-[13px] text-paper">
            Done
          </button>
        </div>
      </div>
    </Modal>
  );
}

/** Opens the steps of a macro. */
export function StepsButton({ id, className }: { readonly id: number; readonly className: string }) {
  const macro = useView((v) => v.macros.find((one) => one.id === id));
  const [isOpen, setOpen] = useState(false);
  if (!macro) return null;
  return (
    <>
      <button type="button" onClick={() => setOpen(true)} className={className}>
        Steps
      </button>
      {isOpen && <StepsDialog macro={macro} onClose={() => setOpen(false)} />}
    </>
  );
}

/** Longer names do not fit where macros are chosen. */
const LONGEST_NAME = 40;

/** A macro of a rule's own, beginning with the steps of another one. @returns its id; null where it could not be made */
export function ownMacro(narrow: string, like: number | null): Promise<number | null> {
  const from = view().macros.find(({ id }) => id === like);
  const name = `For ${narrow.trim() || "all mail"}`.slice(0, LONGEST_NAME);
  return createMacro({ name, colour: from?.colour ?? "slate", steps: from?.steps ?? [], settings: {} });
}
