"use client";
import dynamic from "next/dynamic";
import { plainOf } from "@/core/letter";
import { useFocusIn } from "../parts/focus-in";
import { ListLine } from "../parts/list-line";
import { HeaderNotice } from "../parts/notice";
import { useScreenKeys } from "../parts/screen-keys";
import { plural } from "../parts/words";
import { useDeleteKey } from "../input/captured-keys";
import { redoLast, undoLast } from "../state/edits";
import { useView } from "../state/store";
import { makeTemplate, removeTemplate } from "./edits";

const TemplateEditor = dynamic(() => import("./template-editor").then((part) => part.TemplateEditor), { ssr: false });

const NAME_FIELD = "template-name";

/** Texts that are written again and again: all of them, and one to be changed. Everything is stored at once. */
export function TemplatesScreen() {
  const templates = useView((v) => v.home?.templates) ?? [];
  const folders = [...new Set(templates.map(({ folder }) => folder))].sort();
  const listed = folders.flatMap((folder) => templates.filter((one) => one.folder === folder));
  const { place, choose, moves } = useFocusIn(listed.map(({ id }) => id));
  const template = listed[place] ?? null;
  const dialog = useView((v) => v.dialog);
  const make = async () => {
    const id = await makeTemplate();
    if (id !== null) choose(id);
  };
  useDeleteKey(dialog === null && template ? () => void removeTemplate(template) : null);
  useScreenKeys({
    ...moves,
    read: () => document.getElementById(NAME_FIELD)?.focus(),
    compose: () => void make(),
    undo: () => void undoLast(),
    redo: () => void redoLast(),
  });
  return (
    <main id="main" className="flex h-full flex-col" data-ready>
      <header className="flex min-h-[46px] items-center gap-3 border-b border-rule px-3.5">
        <h1 className="text-[15px] font-bold">Templates</h1>
        <span className="text-[13px] text-ink-2">{plural(templates.length, "template")}</span>
        <HeaderNotice />
        <button
          type="button"
          onClick={() => void make()}
          className="rounded-sm bg-ink px-3 py-1 text-[13px] text-paper"
        >
          New template <kbd className="max-md:hidden">N</kbd>
        </button>
      </header>
      <div className="grid min-h-0 flex-1 md:grid-cols-[minmax(180px,260px)_minmax(0,1fr)]">
        <nav aria-label="All templates" className="min-h-0 overflow-y-auto border-r border-rule py-1 max-md:max-h-48">
          {templates.length === 0 && <p className="px-3.5 py-2 text-[13px] text-ink-2">There are none yet.</p>}
          {folders.map((folder) => (
            <section key={folder} aria-label={folder || "Templates without a folder"}>
              {folder !== "" && <h2 className="mx-3.5 mt-2 mb-0.5 text-[11px] font-semibold text-ink-3">{folder}</h2>}
              <ul>
                {templates
                  .filter((one) => one.folder === folder)
                  .map((one) => (
                    <ListLine
                      key={one.id}
                      title={one.name}
                      under={plainOf(one.body).slice(0, 80)}
                      isCurrent={one === template}
                      onChoose={() => choose(one.id)}
                    />
                  ))}
              </ul>
            </section>
          ))}
        </nav>
        {template && <TemplateEditor key={template.id} template={template} nameField={NAME_FIELD} />}
      </div>
      <footer className="border-t border-rule px-3.5 py-1.5 text-[13px] text-ink-2 max-md:hidden">
        <kbd>J</kbd> <kbd>K</kbd> one to the next, <kbd>Space</kbd> changes it, <kbd>Esc</kbd> leaves its fields,{" "}
        <kbd>N</kbd> a new one, <kbd>Del</kbd> deletes, <kbd>U</kbd> takes back. What is written is stored by itself.
      </footer>
    </main>
  );
}
