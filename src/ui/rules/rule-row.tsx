import { useState } from "react";
import type { RuleShape } from "@/core/api";
import { stepsText } from "@/core/macro";
import { folderFor } from "@/core/place";
import { ofInbox } from "@/core/rule";
import { useInSight } from "../parts/focus-in";
import { countText } from "../parts/words";
import { checkNarrow } from "../state/browse";
import { idsMatching } from "../state/decide";
import { runMacro } from "../state/run";
import { notify, useView, view } from "../state/store";
import { waitsForWords } from "../state/words";
import { ConditionField } from "./condition";
import { changeRule, removeRule } from "./edits";
import { MacroChoice } from "./macro-choice";
import { ofThose, useWhose, type Whose } from "./of-list";
import { ownMacro, StepsButton } from "./own-steps";
import { Remark } from "./remark";
import { SendingParts } from "./sending-parts";
import { SendersButton } from "./senders-list";
import { TrialButton } from "./trial";

const FIELD = "min-w-0 rounded-sm border border-edge bg-sheet px-2 py-1 text-[13px]";
const BUTTON = "rounded-sm border border-rule bg-sheet px-2 py-0.5 text-xs disabled:opacity-40";

/** Does what a rule says to mail that is in the inbox already: a run like any other. */
function runHere({ macro, narrow }: RuleShape, whose: Whose): void {
  const found = view().macros.find(({ id }) => id === macro);
  if (!found) return;
  const checked = checkNarrow(narrow);
  if (checked.ok && waitsForWords(checked.test)) return notify("Still looking which messages it means.", "trouble");
  if (whose === "unread") return notify("Still reading whom it is for.", "trouble");
  const ids = ofThose(idsMatching(ofInbox(narrow, folderFor(view().directory, "inbox")?.path ?? "Inbox")), whose);
  if (ids.length === 0) return notify("Nothing in the inbox is meant by it.", "trouble");
  runMacro({ ...found, settings: { ...found.settings, focus: "stay" } }, { ids });
}

interface Props {
  readonly rule: RuleShape;
  readonly place: number;
  readonly count: number;
  readonly focused: boolean;
  readonly onFocus: () => void;
}

/** One rule: whether it is on, which mail it is for, what is done with it, and what it came to this week. */
export function RuleRow({ rule, place, count, focused, onFocus }: Props) {
  const macro = useView((v) => v.macros.find(({ id }) => id === rule.macro));
  const name = `Rule ${place + 1}`;
  const move = (to: number) => changeRule(rule, { position: to }, `Moved rule ${place + 1} to place ${to + 1}`, place);
  const whose = useWhose(rule.list);
  const row = useInSight<HTMLLIElement>(focused);
  const [isRemarking, setRemarking] = useState(false);
  const onSending = rule.time === "sending";
  const choose = (chosen: number | null) => void changeRule(rule, { macro: chosen }, `Changed rule ${place + 1}`);
  return (
    <li
      ref={row}
      data-rule={rule.id}
      aria-label={name}
      aria-current={focused}
      onFocus={onFocus}
      className={`grid gap-x-3 gap-y-1 border-b border-rule px-3.5 py-2 md:grid-cols-[56px_minmax(200px,1fr)_minmax(150px,240px)_minmax(0,392px)] ${focused ? "shadow-[inset_3px_0_0_var(--ink)]" : ""} ${rule.on ? "" : "text-ink-2"}`}
    >
      <label className="flex items-center gap-1.5 self-start pt-1 text-[13px]">
        <span className="num w-4 text-right text-ink-2">{place + 1}</span>
        <input
          type="checkbox"
          aria-label={`${name} is on`}
          checked={rule.on}
          onChange={({ target }) =>
            void changeRule(rule, { on: target.checked }, `Switched rule ${place + 1} ${target.checked ? "on" : "off"}`)
          }
        />
      </label>
      <ConditionField
        label={`${name}: which mail`}
        value={rule.narrow}
        placeholder={onSending ? "all letters" : "all mail that comes in"}
        time={rule.time}
        whose={whose}
        onDone={(narrow) => void changeRule(rule, { narrow }, `Changed rule ${place + 1}`)}
        className={`${FIELD} w-full font-mono`}
      />
      <span className="grid min-w-0 grid-cols-[minmax(0,1fr)] content-start gap-0.5">
        <MacroChoice
          label={`${name}: what is done`}
          value={macro ? rule.macro : null}
          onChoose={choose}
          time={rule.time}
          {...(onSending ? { onNone: () => choose(null) } : {})}
          onOwn={() => void ownMacro(rule.narrow, rule.macro).then((made) => made !== null && choose(made))}
          className={FIELD}
        />
        <span className="flex items-center gap-2">
          <span className="min-w-0 flex-1 truncate text-xs text-ink-2" title={macro && stepsText(macro.steps)}>
            {macro ? stepsText(macro.steps) || "no steps yet" : "nothing"}
          </span>
          {macro && <StepsButton id={macro.id} className={BUTTON} />}
        </span>
      </span>
      <span className="flex flex-wrap content-start items-center gap-1.5 pt-0.5 text-xs">
        <label className="flex items-center gap-1" title="Rules after it leave alone what it was for">
          <input
            type="checkbox"
            checked={rule.stop}
            onChange={({ target }) =>
              void changeRule(rule, { stop: target.checked }, `Changed where rule ${place + 1} leads`)
            }
          />
          stop here
        </label>
        <select
          aria-label={`${name}: when`}
          value={rule.time}
          onChange={({ target }) =>
            void changeRule(rule, { time: target.value as RuleShape["time"] }, `Changed when rule ${place + 1} is done`)
          }
          className={BUTTON}
        >
          <option value="arrival">as mail comes in</option>
          <option value="sending">as I send</option>
        </select>
        {!onSending && <SendersButton rule={rule} name={name} className={`${BUTTON} max-w-44 truncate`} />}
        {rule.remark === null && (
          <button type="button" onClick={() => setRemarking(true)} className={BUTTON}>
            Remark
          </button>
        )}
        <span className="num w-24 text-right text-ink-2" title="Messages it was for in the last seven days">
          {countText(rule.touched)} this week
        </span>
        <button
          type="button"
          aria-label={`${name} up`}
          disabled={place === 0}
          onClick={() => void move(place - 1)}
          className={BUTTON}
        >
          ↑
        </button>
        <button
          type="button"
          aria-label={`${name} down`}
          disabled={place === count - 1}
          onClick={() => void move(place + 1)}
          className={BUTTON}
        >
          ↓
        </button>
        {!onSending && (
          <>
            <button
              type="button"
              onClick={() => runHere(rule, whose)}
              className={BUTTON}
              title="Run it on what is in the inbox already"
            >
              Run here
            </button>
            <TrialButton
              narrow={rule.narrow}
              macro={macro ? macro.id : undefined}
              list={rule.list ?? undefined}
              className={BUTTON}
            />
          </>
        )}
        <button type="button" onClick={() => void removeRule(rule)} className={BUTTON}>
          Delete
        </button>
      </span>
      <Remark rule={rule} name={name} isOpen={isRemarking} onOpen={setRemarking} />
      {onSending && <SendingParts rule={rule} name={name} />}
      {rule.trouble !== null && (
        <p role="alert" className="rounded-sm bg-amber-soft px-2 py-1 text-[13px] text-ink md:col-span-4">
          {rule.on ? "It could not be done: " : "Switched off, since it could not be done: "}
          {rule.trouble}
        </p>
      )}
    </li>
  );
}
