"use client";
import { useEffect, useMemo, useRef, useState } from "react";
import type { TemplateShape } from "@/core/api";
import { docOfText, plainOf } from "@/core/letter";
import { blanksIn, fillNow, readBlank, stepsText, walkSteps } from "@/core/macro";
import { messageId } from "@/core/id";
import { Editor, type EditorHandle } from "../compose/editor";
import { Toolbar } from "../compose/toolbar";
import { TextEdit } from "../parts/text-edit";
import { lastRead } from "../state/reads";
import { mailbox, notify, useView } from "../state/store";
import { putTemplate, removeTemplate, renameTemplate } from "./edits";
import { useTyped } from "./typed";

const FIELD = "rounded-sm border border-edge bg-sheet px-2 py-1 text-[13px]";

/** Values a template can hold, with what they are for. */
const VALUES: readonly (readonly [value: string, means: string])[] = [
  ["{first name = there}", "of who wrote; after = what stands there where nothing is known"],
  ["{sender name}", "the whole name"],
  ["{address}", "their address"],
  ["{subject}", "without Re: and Fwd:"],
  ["{date today}", "today, written out"],
  ["{date +3d}", "in three days; any time the narrow line knows"],
  ["{date in text}", "the first date in the message"],
  ["{amount in text}", "the first amount in it"],
  ["{captured ref (\\d+)}", "what stands in the brackets of a pattern"],
  ["{ask Which hut? = Tarn Hut}", "asked when it is used, with a usual answer"],
];

interface Props {
  readonly template: TemplateShape;
  /** The id of the field with its name, for the key that leads there. */
  readonly nameField: string;
}

/** One template, with what its values would be for the message that has the focus. */
export function TemplateEditor({ template, nameField }: Props) {
  const editor = useRef<EditorHandle>(null);
  const [subject, setSubject] = useState(template.subject);
  const [body, setBody] = useState(template.body);
  const focusId = useView((v) => v.focusId);
  const zone = useView((v) => v.home?.person.zone ?? "UTC");
  const macros = useView((v) => v.macros);
  const { put, store, unstored, holds } = useTyped<TemplateShape>(`/templates/${template.id}`);
  // Written elsewhere, it is shown here too: what is typed next is to be a part of it, and not instead of it.
  const [seen, setSeen] = useState(template);
  const [news, setNews] = useState(template.body);
  if (seen !== template) {
    setSeen(template);
    if (seen.subject !== template.subject && !("subject" in unstored)) setSubject(template.subject);
    // Renamed, it is the same text still: it may be older than what was typed and has just been stored.
    if (seen.body !== template.body && !("body" in unstored)) {
      setBody(template.body);
      setNews(template.body);
    }
  }
  useEffect(() => {
    // A letter typed in this very moment is not known to what was drawn.
    if (!holds("body")) editor.current?.show(news);
  }, [news, holds]);
  const filled = useMemo(() => {
    const facts = focusId === null ? null : mailbox.facts(messageId(focusId));
    const words = focusId === null ? null : (lastRead(focusId)?.text ?? null);
    return fillNow({ name: "", subject, body }, facts && { ...facts, body: words }, { now: new Date(), zone });
  }, [subject, body, focusId, zone]);
  const bad = blanksIn({ subject, body }).filter((source) => readBlank(source).kind === "unknown");
  const used = macros.filter(({ steps }) =>
    [...walkSteps(steps)].some(({ step }) => "template" in step && step.template === template.name),
  );
  return (
    <div
      className="grid min-h-0 content-start gap-2 overflow-y-auto px-3.5 py-3"
      // What is done next finds it stored.
      onBlur={store}
      onKeyDown={({ key, target }) => key === "Escape" && target instanceof HTMLElement && target.blur()}
    >
      <div className="flex flex-wrap gap-2">
        <TextEdit
          id={nameField}
          label="Name"
          value={template.name}
          onChange={(name) => renameTemplate(template, name)}
          framed
          maxLength={80}
          className="flex-1 font-semibold"
        />
        <TextEdit
          label="Folder"
          empty="folder"
          value={template.folder}
          onChange={(folder) => putTemplate(template, folder)}
          maxLength={80}
          className="w-36"
        />
        <button type="button" onClick={() => void removeTemplate(template)} className={FIELD}>
          Delete
        </button>
      </div>
      <input
        aria-label="Subject"
        placeholder="subject; without one, that of what it answers"
        value={subject}
        maxLength={2000}
        onChange={({ target }) => {
          setSubject(target.value);
          put({ subject: target.value });
        }}
        className={FIELD}
      />
      <div className="rounded-sm border border-edge bg-sheet px-2">
        <Toolbar
          plain={false}
          onFormat={(format) => editor.current?.format(format)}
          onLink={(href) => editor.current?.link(href)}
        />
        <Editor
          handle={editor}
          label="Text of the template"
          begins={false}
          onChange={() => {
            const next = editor.current!.doc();
            setBody(next);
            put({ body: next });
          }}
          onFiles={() => notify("A template holds no files. Attach them in the letter.", "trouble")}
          pictureAddress={() => ""}
        />
      </div>
      {bad.length > 0 && (
        <p role="alert" className="rounded-sm bg-brick-soft px-2 py-1 text-[13px]">
          {bad.map((source) => `{${source}}`).join(", ")} {bad.length === 1 ? "is no value" : "are no values"}: a reply
          with it cannot go by itself.
        </p>
      )}
      <p className="text-[13px] text-ink-2">
        {used.length === 0
          ? "No macro uses it yet."
          : `Used by ${used.map(({ name, steps }) => `${name} (${stepsText(steps)})`).join("; ")}.`}
      </p>
      <div className="grid gap-4 lg:grid-cols-2">
        <section aria-labelledby="values-title">
          <h2 id="values-title" className="mb-1 text-[13px] font-bold">
            Values
          </h2>
          <ul className="grid gap-0.5 text-[13px]">
            {VALUES.map(([value, means]) => (
              <li key={value} className="grid grid-cols-[minmax(0,15em)_minmax(0,1fr)] items-baseline gap-2">
                <button
                  type="button"
                  title="Put it into the text"
                  onClick={() => editor.current?.insert(docOfText(value))}
                  className="truncate text-left font-mono text-xs underline"
                >
                  {value}
                </button>
                <span className="text-ink-2">{means}</span>
              </li>
            ))}
          </ul>
        </section>
        <section aria-labelledby="filled-title">
          <h2 id="filled-title" className="mb-1 text-[13px] font-bold">
            For the message that has the focus
          </h2>
          <p className="text-[13px] font-semibold">{filled.subject}</p>
          <p data-testid="filled" className="text-[13px] whitespace-pre-wrap text-ink-2">
            {plainOf(filled.body)}
          </p>
        </section>
      </div>
    </div>
  );
}
