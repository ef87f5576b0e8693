"use client";
import { DropdownMenu } from "radix-ui";
import { useRef, useState, type Dispatch, type SetStateAction } from "react";
import type { MacroShape, PackAnswer } from "@/core/api";
import { Modal } from "../parts/picker";
import { plural } from "../parts/words";
import { packAddress, write } from "../state/api";
import { refreshSettings } from "../state/settings";
import { notify, useView } from "../state/store";
import { FIELD } from "./name-field";

type Clash = "both" | "replace" | "leave";
interface Choices {
  readonly clashes: Readonly<Record<string, Clash>>;
  readonly folders: Readonly<Record<string, string>>;
  readonly keys: boolean;
}
interface Taking {
  readonly text: string;
  readonly said: PackAnswer;
  readonly choices: Choices;
}

const ITEM = "cursor-pointer rounded-sm px-3 py-1.5 outline-none data-highlighted:bg-spruce-soft";
const ask = (text: string, choices: Choices, dry: boolean) =>
  write<PackAnswer>("POST", "/packs", { pack: text, choices, dry });

/** Macros handed on as a file, and taken in from one after seeing what that means. */
export function Packs({ macro }: { readonly macro: MacroShape | undefined }) {
  const file = useRef<HTMLInputElement>(null);
  const [taking, setTaking] = useState<Taking | null>(null);
  const save = (query: Record<string, string>) => {
    const link = document.createElement("a");
    link.href = packAddress(query);
    link.click();
  };
  const read = async (chosen: File | undefined) => {
    if (!chosen) return;
    const text = await chosen.text();
    const choices: Choices = { clashes: {}, folders: {}, keys: true };
    try {
      setTaking({ text, said: await ask(text, choices, true), choices });
    } catch (error) {
      notify(error instanceof Error ? error.message : "The file could not be read.", "trouble");
    }
  };
  return (
    <>
      <input
        ref={file}
        type="file"
        accept=".json,application/json"
        aria-label="Macro pack to take in"
        className="sr-only"
        tabIndex={-1}
        onChange={(event) => {
          void read(event.target.files?.[0]);
          event.target.value = "";
        }}
      />
      <DropdownMenu.Root>
        <DropdownMenu.Trigger className="rounded-sm border border-rule bg-sheet px-2 py-1 font-mono text-[12.5px]">
          Packs
        </DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content align="end" className="z-50 rounded-md border-2 border-ink bg-sheet p-1 text-[13px]">
            {macro && (
              <DropdownMenu.Item className={ITEM} onSelect={() => save({ macros: String(macro.id), name: macro.name })}>
                Save {macro.name} as a pack
              </DropdownMenu.Item>
            )}
            <DropdownMenu.Item className={ITEM} onSelect={() => save({ name: "All macros" })}>
              Save all macros as a pack
            </DropdownMenu.Item>
            <DropdownMenu.Item className={ITEM} onSelect={() => file.current?.click()}>
              Take a pack in…
            </DropdownMenu.Item>
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
      {taking && <TakeIn taking={taking} onChange={setTaking} />}
    </>
  );
}

interface TakeInProps {
  readonly taking: Taking;
  readonly onChange: Dispatch<SetStateAction<Taking | null>>;
}

function TakeIn({ taking, onChange }: TakeInProps) {
  const folders = useView((v) => v.directory.folders);
  const [problem, setProblem] = useState<string | null>(null);
  const { text, said, choices } = taking;
  const choose = async (next: Choices) => {
    // A choice holds at once: the next one, or taking in, may come before the server has said what it means.
    onChange((now) => now && { ...now, choices: next });
    try {
      const answer = await ask(text, next, true);
      onChange((now) => (now?.choices === next ? { ...now, said: answer } : now));
      setProblem(null);
    } catch (error) {
      setProblem(error instanceof Error ? error.message : "The server did not say what that would do.");
    }
  };
  const take = async () => {
    try {
      const done = await ask(text, choices, false);
      await refreshSettings();
      onChange(null);
      notify(`Took in ${plural(done.macros.length, "macro")}.`);
    } catch (error) {
      setProblem(error instanceof Error ? error.message : "It could not be taken in. Nothing was changed.");
    }
  };
  const list = (what: string, names: readonly string[]) =>
    names.length > 0 && (
      <p>
        <b>{what}:</b> {names.join(", ")}
      </p>
    );
  return (
    <Modal title="Take a macro pack in" onClose={() => onChange(null)} wide>
      <div className="flex max-h-[60vh] flex-col gap-2.5 overflow-y-auto p-4 text-[13px]">
        <ul aria-label="Macros of the pack" className="grid gap-1">
          {said.macros.map(({ name, replaces, steps }) => (
            <li key={name} className="border-b border-rule-soft pb-1">
              <b>{name}</b>
              {replaces !== null && " takes the place of yours"}
              <span className="block text-ink-2">{steps}</span>
            </li>
          ))}
        </ul>
        {list("New folders", said.folders)}
        {list("New templates", said.templates)}
        {list("New labels", said.labels)}
        {list("New markers", said.markers)}
        {list("Rules, switched off", said.rules)}
        <label className="flex items-center gap-1.5">
          <input
            type="checkbox"
            checked={choices.keys}
            onChange={(event) => void choose({ ...choices, keys: event.target.checked })}
          />
          put them on their keys where those are free ({said.keys} free
          {said.takenKeys.length > 0 && `, ${said.takenKeys.length} left`})
        </label>
        {said.takenKeys.length > 0 && (
          <details>
            <summary className="cursor-pointer text-ink-2">Keys that are left as they are</summary>
            <ul className="pl-4 text-ink-2">
              {said.takenKeys.map((text) => (
                <li key={text}>{text}</li>
              ))}
            </ul>
          </details>
        )}
        {said.clashes.map((name) => (
          <label key={name} className="flex items-center gap-2">
            <span className="flex-1">There is a macro “{name}” here.</span>
            <select
              aria-label={`What to do with ${name}`}
              value={choices.clashes[name] ?? "both"}
              onChange={(event) =>
                void choose({ ...choices, clashes: { ...choices.clashes, [name]: event.target.value as Clash } })
              }
              className={FIELD}
            >
              <option value="both">keep both</option>
              <option value="replace">replace mine</option>
              <option value="leave">leave it out</option>
            </select>
          </label>
        ))}
        {said.missingFolders.map((path) => (
          <label key={path} className="flex items-center gap-2">
            <span className="flex-1">There is no folder “{path}” here.</span>
            <select
              aria-label={`Folder for ${path}`}
              value={choices.folders[path] ?? ""}
              onChange={(event) => {
                const { [path]: _, ...rest } = choices.folders;
                const to = event.target.value;
                void choose({ ...choices, folders: to === "" ? rest : { ...rest, [path]: to } });
              }}
              className={FIELD}
            >
              <option value="">make it</option>
              {folders.map((folder) => (
                <option key={folder.id} value={folder.path}>
                  use {folder.path}
                </option>
              ))}
            </select>
          </label>
        ))}
        {problem && (
          <p role="alert" className="rounded-md bg-brick-soft px-3 py-2">
            {problem}
          </p>
        )}
        <div className="mt-2 flex gap-2">
          <button
            type="button"
            autoFocus
            onClick={() => void take()}
            className="rounded-sm bg-ink px-3 py-1.5 font-semibold text-paper"
          >
            Take in {plural(said.macros.length, "macro")}
          </button>
          <button
            type="button"
            onClick={() => onChange(null)}
            className="rounded-sm border border-edge bg-sheet px-3 py-1.5"
          >
            Leave everything as it is
          </button>
        </div>
      </div>
    </Modal>
  );
}
