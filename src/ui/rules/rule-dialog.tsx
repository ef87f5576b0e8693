import { useState } from "react";
import { suggestionsFrom } from "@/core/rule";
import { Modal } from "../parts/picker";
import { countText } from "../parts/words";
import { idsMatching } from "../state/decide";
import { checkNarrow } from "../state/browse";
import { mailbox, notify, set, useView, type RuleFrom } from "../state/store";
import { ConditionField } from "./condition";
import { makeRule } from "./edits";
import { MacroChoice } from "./macro-choice";
import { ownMacro, StepsButton } from "./own-steps";
import { TrialButton } from "./trial";

const FIELD = "min-w-0 rounded-sm border border-edge bg-sheet px-2 py-1 text-[13px]";
const close = () => set({ dialog: null });

/** What the message with the focus suggests, with how much of the mail each means. */
function suggestionsOf(id: number) {
  const row = mailbox.rowOf(id);
  if (row === undefined) return [];
  const text = (column: Parameters<typeof mailbox.text>[1]) => mailbox.text(row, column);
  const via = text("via")
    .split(/[\s,]+/)
    .filter(Boolean);
  const pattern = { from: text("fromAddress").toLowerCase(), list: text("list"), via, subject: text("subject") };
  return suggestionsFrom(pattern).map((one) => ({ ...one, count: idsMatching(one.narrow).length }));
}

const TITLE = {
  message: "A rule from this message",
  narrow: "A rule for this mail",
  macro: "Always do this",
} as const;

/** A rule from a message, from a batch or from a macro: each says a part of it, and the rest is asked. */
export function RuleDialog({ from }: { readonly from: RuleFrom }) {
  const macros = useView((v) => v.macros);
  const [some] = useState(() => ("message" in from ? suggestionsOf(from.message) : []));
  const [narrow, setNarrow] = useState("narrow" in from ? from.narrow : (some[0]?.narrow ?? ""));
  /** Another field for each suggestion that is taken. */
  const [field, setField] = useState(0);
  const [macro, setMacro] = useState<number | null>("macro" in from ? from.macro : null);
  const make = async () => {
    const name = macros.find(({ id }) => id === macro)?.name;
    if (macro === null || name === undefined || !checkNarrow(narrow).ok) return;
    if (narrow.trim() === "") return notify("Say which mail the rule is for.", "trouble");
    if (await makeRule({ narrow, macro, on: true, stop: false }, `A rule: ${name}`)) close();
  };
  return (
    <Modal title={TITLE["message" in from ? "message" : "narrow" in from ? "narrow" : "macro"]} onClose={close}>
      <form
        className="grid gap-3 px-4 py-3 text-[13px]"
        onSubmit={(event) => {
          event.preventDefault();
          void make();
        }}
      >
        <fieldset className="grid gap-1" hidden={some.length === 0}>
          <legend className="mb-1 text-ink-2">Mail that comes in…</legend>
          {some.map((one, i) => (
            <label key={one.narrow} className="flex items-baseline gap-2">
              <input
                type="radio"
                name="which"
                autoFocus={i === 0}
                checked={narrow === one.narrow}
                onChange={() => {
                  setNarrow(one.narrow);
                  setField(field + 1);
                }}
              />
              <span className="min-w-0 flex-1 truncate">{one.text}</span>
              <span className="num text-xs text-ink-2">{countText(one.count)} so far</span>
            </label>
          ))}
        </fieldset>
        <ConditionField
          key={field}
          label="Which mail"
          value={narrow}
          placeholder="which mail: from~ferry subject~timetable"
          onType={setNarrow}
          onDone={setNarrow}
          className={`${FIELD} w-full font-mono`}
        />
        <MacroChoice
          label="What is done"
          value={macro}
          onChoose={setMacro}
          onOwn={() => void ownMacro(narrow, null).then(setMacro)}
          className={FIELD}
        />
        {macro !== null && <StepsButton id={macro} className="justify-self-end text-xs underline" />}
        <div className="flex justify-end gap-2">
          <TrialButton
            narrow={narrow}
            macro={macro ?? undefined}
            className="mr-auto rounded-sm border border-edge px-3 py-1 disabled:opacity-40"
          />
          <button type="button" onClick={close} className="rounded-sm border border-edge px-3 py-1">
            Cancel
          </button>
          <button
            type="submit"
            disabled={macro === null}
            className="rounded-sm bg-ink px-3 py-1 text-paper disabled:opacity-50"
          >
            Make the rule
          </button>
        </div>
      </form>
    </Modal>
  );
}
