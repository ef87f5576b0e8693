import { useState } from "react";
import { checkNarrow } from "../state/browse";
import { notify, view } from "../state/store";
import { ConditionField } from "./condition";
import { makeRule } from "./edits";
import { MacroChoice } from "./macro-choice";
import { ownMacro, StepsButton } from "./own-steps";
import { TrialButton } from "./trial";

const FIELD = "min-w-0 rounded-sm border border-edge bg-sheet px-2 py-1 text-[13px]";

/** A condition and a macro, and a rule is made of them; the count of what it means stands beneath as it is typed. */
export function NewRule() {
  const [narrow, setNarrow] = useState("");
  const [macro, setMacro] = useState<number | null>(null);
  /** Another field for the next one, and what stands in it at first. */
  const [field, setField] = useState({ key: 0, start: "" });
  const begin = (start: string, chosen: number | null) => {
    setNarrow(start);
    setMacro(chosen);
    setField(({ key }) => ({ key: key + 1, start }));
  };
  const make = async () => {
    const name = view().macros.find(({ id }) => id === macro)?.name;
    if (macro === null || name === undefined) return notify("Choose what the rule is to do.", "trouble");
    if (narrow.trim() === "") return notify("Say which mail the rule is for.", "trouble");
    if (!checkNarrow(narrow).ok) return;
    // The next one may be typed while this one is on its way.
    begin("", null);
    const made = await makeRule({ narrow: narrow.trim(), macro, on: true, stop: false }, `A rule: ${name}`);
    if (!made) begin(narrow, macro);
  };
  return (
    <form
      aria-label="A new rule"
      className="grid items-start gap-x-3 gap-y-1.5 border-b border-rule bg-well px-3.5 py-2 md:grid-cols-[56px_minmax(200px,1fr)_minmax(150px,240px)_minmax(0,392px)]"
      onSubmit={(event) => {
        event.preventDefault();
        void make();
      }}
    >
      <span className="pt-1 text-[13px] text-ink-2">new</span>
      <ConditionField
        key={field.key}
        label="Which mail"
        value={field.start}
        placeholder="which mail: from~ferry subject~timetable"
        onType={setNarrow}
        onDone={setNarrow}
        className={`${FIELD} w-full font-mono`}
      />
      <span className="grid min-w-0 gap-1">
        <MacroChoice
          label="What is done"
          value={macro}
          onChoose={setMacro}
          onOwn={() => void ownMacro(narrow, null).then(setMacro)}
          className={FIELD}
        />
        {macro !== null && <StepsButton id={macro} className="justify-self-end text-xs underline" />}
      </span>
      <span className="flex flex-wrap gap-2 text-[13px]">
        <button type="submit" className="rounded-sm bg-ink px-3 py-1 text-paper">
          Make the rule
        </button>
        <TrialButton
          narrow={narrow}
          macro={macro ?? undefined}
          className="rounded-sm border border-edge bg-sheet px-2 py-1 disabled:opacity-40"
        />
      </span>
    </form>
  );
}
