import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { RuleShape } from "@/core/api";
import { AddLine } from "../parts/add-line";
import { Modal } from "../parts/picker";
import { countText, plural } from "../parts/words";
import { write } from "../state/api";
import { listed, reads, rules } from "../state/reads";
import { notify, useView } from "../state/store";
import { inLine } from "../state/writes";
import { changeRule } from "./edits";

const FIELD = "min-w-0 rounded-sm border border-edge bg-sheet px-2 py-1 text-[13px]";
const BUTTON = "rounded-sm border border-edge px-2 py-1 text-[13px] disabled:opacity-40";

/** Several may be pasted at once. */
const addressesIn = (text: string): string[] => text.split(/[\s,;<>]+/).filter((part) => part.includes("@"));

async function change(list: string, patch: { add?: string[]; remove?: string[] }, done: string): Promise<boolean> {
  try {
    await inLine(() => write("PATCH", `/lists/${encodeURIComponent(list)}`, patch));
    notify(`${done} U takes it back.`);
    return true;
  } catch (error) {
    notify(error instanceof Error ? error.message : "It could not be stored. Try again.", "trouble");
    return false;
  } finally {
    void reads.invalidateQueries(listed(list));
    void reads.invalidateQueries(rules);
  }
}

/** Who is on a list: added, also several at once, and taken out one by one. */
function Senders({ list }: { readonly list: string }) {
  const { data, error } = useQuery(listed(list));
  const add = async (text: string) => {
    const add = addressesIn(text);
    if (add.length > 0) return change(list, { add }, `Added ${plural(add.length, "sender")} to ${list}.`);
    notify("Write an address, such as ines@larch.example.", "trouble");
    return false;
  };
  return (
    <>
      <AddLine autoFocus label="Sender to add" placeholder="ines@larch.example, or several" verb="Add" onAdd={add} />
      {error && (
        <p role="alert" className="text-brick">
          {error.message}
        </p>
      )}
      <ul aria-label={`Senders of ${list}`} className="max-h-72 overflow-y-auto">
        {data?.addresses.map((address) => (
          <li key={address} className="flex items-center gap-2 border-t border-rule-soft py-0.5">
            <span className="min-w-0 flex-1 truncate">{address}</span>
            <button
              type="button"
              aria-label={`Take out ${address}`}
              onClick={() => void change(list, { remove: [address] }, `Took ${address} out of ${list}.`)}
              className="rounded-sm px-2 py-0.5 text-xs hover:bg-well"
            >
              take out
            </button>
          </li>
        ))}
        {data?.addresses.length === 0 && (
          <li className="text-ink-2">
            Nobody yet. The step <i>add sender to rule</i> puts senders here by a key.
          </li>
        )}
      </ul>
    </>
  );
}

interface Props {
  readonly rule: RuleShape;
  readonly name: string;
  readonly onClose: () => void;
}

/** Whom a rule is for: everybody who meets its condition, or of those the senders on a list that grows by a key. */
function SendersDialog({ rule, name, onClose }: Props) {
  const macro = useView((v) => v.macros.find(({ id }) => id === rule.macro)?.name ?? "");
  const [list, setList] = useState(macro);
  const lists = new Set(reads.getQueryData(rules.queryKey)?.flatMap((one) => one.list ?? []));
  const give = () => {
    const called = list.trim();
    if (called !== "") void changeRule(rule, { list: called }, `${name} is for the senders of ${called}`);
  };
  return (
    <Modal title={rule.list === null ? `Whom ${name} is for` : `Senders of ${rule.list}`} onClose={onClose}>
      <div className="grid gap-2 px-4 py-3 text-[13px]">
        {rule.list === null ? (
          <form
            className="grid gap-2"
            onSubmit={(event) => {
              event.preventDefault();
              give();
            }}
          >
            <p>It is for everybody whose mail meets its condition. It can be for a list of senders instead.</p>
            <span className="flex gap-2">
              <input
                autoFocus
                aria-label="Name of the list"
                list="known-lists"
                value={list}
                maxLength={80}
                onChange={({ target }) => setList(target.value)}
                className={`${FIELD} flex-1`}
              />
              <datalist id="known-lists">
                {[...lists].map((one) => (
                  <option key={one} value={one} />
                ))}
              </datalist>
              <button type="submit" disabled={list.trim() === ""} className={BUTTON}>
                For this list only
              </button>
            </span>
          </form>
        ) : (
          <>
            <Senders list={rule.list} />
            <span className="flex justify-between">
              <button
                type="button"
                onClick={() => void changeRule(rule, { list: null }, `${name} is for everybody`)}
                className={BUTTON}
              >
                For everybody again
              </button>
              <button type="button" onClick={onClose} className="rounded-sm bg-ink px-3 py-1 text-paper">
                Done
              </button>
            </span>
          </>
        )}
      </div>
    </Modal>
  );
}

export function SendersButton({ rule, name, className }: Omit<Props, "onClose"> & { readonly className: string }) {
  const [isOpen, setOpen] = useState(false);
  return (
    <>
      <button type="button" onClick={() => setOpen(true)} className={className}>
        {rule.list === null ? "for everybody" : `only ${rule.list}: ${countText(rule.senders)}`}
      </button>
      {isOpen && <SendersDialog rule={rule} name={name} onClose={() => setOpen(false)} />}
    </>
  );
}
