"use client";
import { useQuery } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useRef, useState, type KeyboardEvent } from "react";
import {
  eachOnce,
  EMPTY_DOC,
  isBlank,
  mistakesIn,
  subjectOf,
  type Correspondent,
  type Doc,
  type Mistake,
} from "@/core/letter";
import { withEntry } from "../state/entries";
import { closeComposer, handOver, letters } from "../state/compose";
import { showLedger } from "../state/decide";
import { write } from "../state/api";
import { correspondents, identities } from "../state/reads";
import { mailbox, notify, set, useView, view, type Composing } from "../state/store";
import { advance } from "../state/reflect";
import { Editor, type EditorHandle } from "./editor";
import { Elsewhere } from "./elsewhere";
import { Files, useFiles } from "./files";
import { Labels } from "./labels";
import { LaterBar } from "./later";
import { useLooks } from "./looks";
import { Mistakes } from "./mistakes";
import { OfferPicker } from "./offer-picker";
import { Recipients } from "./recipients";
import { useSentPlace } from "./sent-place";
import { TemplatePicker } from "./template-picker";
import { Toolbar } from "./toolbar";
import type { Fields, Letter } from "../state/letters";
import type { Rest } from "./draft-writer";
import { useDraft } from "./use-draft";
import { useKeysOf } from "./use-keys-of";

const BUTTON = "rounded-sm border border-edge bg-sheet px-2.5 py-1 text-[13px]";

const TITLES = { new: "New message", reply: "Reply", "reply all": "Reply to all", forward: "Forward" } as const;

/** What the fields hold before the server has said: the list knows whom a message is from. */
function guessed({ kind, answers, resumed }: Composing): Partial<Fields> {
  if (resumed?.draft === null) return resumed.fields;
  const row = answers === null ? undefined : mailbox.rowOf(answers);
  if (row === undefined) return {};
  const from: Correspondent = { name: mailbox.text(row, "fromName"), address: mailbox.text(row, "fromAddress") };
  return {
    subject: subjectOf(kind ?? "new", mailbox.text(row, "subject")),
    ...(kind === "forward" ? {} : { to: [from] }),
  };
}

const NOBODY: readonly Correspondent[] = [];
const NO_SENDER: Correspondent = { name: "", address: "" };

/** A letter being written, in the place of the reader or in a window of its own. */
export function Composer({
  composing,
  onClose = closeComposer,
}: {
  readonly composing: Composing;
  readonly onClose?: () => void;
}) {
  const editor = useRef<EditorHandle>(null);
  const doc = useCallback((): Doc | null => editor.current?.doc() ?? null, []);
  const take = useCallback((next: Doc, anew: boolean) => editor.current?.take(next, anew), []);
  const letter = (rest: Rest, sending: Letter["sending"] = null): Letter => {
    const { key, kind, answers, run } = composing;
    const { draft: _, ...what } = rest;
    return {
      key,
      beside: crypto.randomUUID(),
      kind: kind ?? "new",
      answers,
      run,
      draft: composing.draft,
      ...what,
      sending,
    };
  };
  const keep = (rest: Rest) => letters().keepOpen(letter(rest));
  const kept = () => letters().drop(composing.key);
  const state = useDraft(composing.draft, guessed(composing), { doc, take, keep, kept }, composing.resumed);
  const { draft, put } = state;
  const { fields } = state;
  const kind = draft?.kind ?? composing.kind ?? "new";
  const answers = draft?.answers ?? composing.answers;
  const { to = NOBODY, cc = NOBODY, bcc = NOBODY, subject = "", plain = false } = fields;
  const [wide, setWide] = useState(false);
  const [picking, setPicking] = useState<"template" | "times" | null>(null);
  const [mistakes, setMistakes] = useState<readonly Mistake[]>([]);
  const { data: known } = useQuery(correspondents);
  const { data: own = [] } = useQuery(identities);
  const mostPeople = useView((v) => v.home?.settings.mostPeople ?? 10);
  const afterwards = useView((v) => v.home?.settings.afterwards ?? null);
  const macros = useView((v) => v.macros);
  const looks = useLooks(own);
  const hold = useView((v) => v.home?.settings.holdSeconds ?? 10);
  const attached = (draft?.files ?? []).filter(({ cid }) => cid === null);
  const place = useSentPlace(answers);
  const files = useFiles(composing.draft, attached, state.changeFiles, (id, name) => editor.current?.picture(id, name));
  const subjectField = useRef<HTMLInputElement>(null);
  const box = useRef<HTMLElement>(null);
  const everybody = useMemo(() => eachOnce([...to, ...cc, ...bcc]), [to, cc, bcc]);
  const macro = macros.find(({ id }) => id === afterwards) ?? macros.find(({ name }) => name === "Archive");

  const keepBeside = () => {
    const body = doc() ?? EMPTY_DOC;
    void write<{ id: number }>("POST", "/drafts", { kind: "new", to, cc, bcc, subject, body }).then(({ id }) =>
      set({ composing: { ...composing, key: crypto.randomUUID(), draft: id, kind: "new", answers: null } }),
    );
  };

  const leave = () => {
    const text = doc() ?? EMPTY_DOC;
    const { draft: id } = composing;
    const isNothing =
      draft !== null &&
      isBlank(text) &&
      attached.length === 0 &&
      files.coming.length === 0 &&
      (kind !== "new" || (subject === "" && everybody.length === 0));
    const isTyped = !isBlank(text) || (composing.kind === "new" && (subject !== "" || everybody.length > 0));
    files.forget();
    const rest = state.handOver();
    onClose();
    if (id === null && !isTyped) return kept();
    if (!isNothing) return handOver(rest.then((what) => letter(what)));
    kept();
    void write("DELETE", `/drafts/${id}`).then(
      () =>
        notify(
          kind === "new"
            ? "Nothing was written: the draft is gone."
            : "Nothing was written: the draft is thrown away. U brings it back.",
        ),
      () => undefined,
    );
  };

  const checked = (): readonly Mistake[] => {
    const addresses = new Set([...(known?.people ?? []), ...own].map(({ address }) => address.toLowerCase()));
    const letter = { to, cc, bcc, subject, body: doc() ?? EMPTY_DOC };
    const names = [...attached, ...files.coming].map(({ name }) => name);
    // Whom one has written to is not known yet without a connection: then nobody is said to be new.
    const knows = (one: string) => known === undefined || addresses.has(one.toLowerCase());
    const acquainted = { knows, known: [...addresses], mostPeople };
    return [
      ...mistakesIn({ ...letter, kind, files: names.length, list: draft?.list ?? "" }, acquainted),
      ...looks({ ...letter, sender: fields.sender ?? NO_SENDER, files: names }),
    ];
  };

  const send = (with_: "afterwards" | "alone" | "filed", anyway = false) => {
    if (with_ === "filed" && !place)
      return notify("Nothing tells where it belongs. Choose where its copy goes under “Later…”.", "trouble");
    const found = checked();
    const same = found.length === mistakes.length && found.every(({ code }, i) => code === mistakes[i]?.code);
    // What was read and only asks is no hindrance the second time.
    if (found.some(({ severity }) => severity === "stops") || (found.length > 0 && !anyway && !same))
      return setMistakes(found);
    if (files.isBusy) {
      files.once(() => sending.current(with_, anyway));
      return notify(
        `It goes as soon as all is ${files.coming.length > 0 ? "attached" : "taken out"}. Esc holds it back.`,
      );
    }
    const filed = with_ === "filed" ? { sent: place!.path } : {};
    const id = with_ === "afterwards" && answers !== null ? (macro?.id ?? null) : null;
    const goes = { id: crypto.randomUUID(), afterwards: id };
    const rest = state.handOver();
    onClose();
    if (answers !== null) advance(new Set([answers]));
    const when = (fields.sendAt ?? null) !== null ? "Sent later" : hold === 0 ? "Sent" : `Leaves in ${hold} s`;
    const where = with_ === "filed" ? `, its copy to ${place!.path}` : "";
    notify(`${when}: ${subject || "(no subject)"}${where}. U calls it back.`);
    handOver(
      rest.then((what) => letter({ ...what, fields: { ...what.fields, ...filed } }, goes)),
      ({ entry }) => entry && showLedger(withEntry(view().confirmed, entry)),
    );
  };

  const mend = (mistake: Mistake) => {
    const { mending } = mistake.repair;
    const each = (change: (list: readonly Correspondent[]) => readonly Correspondent[]) =>
      put({ to: [...change(to)], cc: [...change(cc)], bcc: [...change(bcc)] });
    if (mending.do === "drop") each((list) => list.filter(({ address }) => address !== mending.address));
    else if (mending.do === "replace")
      each((list) => list.map((one) => (one.address === mending.address ? { name: "", address: mending.by } : one)));
    else if (mending.do === "only sender") put({ to: to.slice(0, 1), cc: [], bcc: [] });
    else if (mending.field === "subject") subjectField.current?.focus();
    else if (mending.field === "body") editor.current?.focus();
    else box.current?.querySelector<HTMLInputElement>('input[role="combobox"]')?.focus();
    setMistakes(mistakes.filter((one) => one !== mistake));
  };

  // A key may have changed the letter on its way up to here: what is sent is the letter as it is then.
  const sending = useRef(send);
  useEffect(() => {
    sending.current = send;
  });

  const keys = (event: KeyboardEvent | globalThis.KeyboardEvent) => {
    if (event.key === "Enter" && event.ctrlKey) {
      event.preventDefault();
      sending.current(event.altKey ? "filed" : event.shiftKey ? "afterwards" : "alone");
    } else if (event.key === "Escape") {
      event.preventDefault();
      event.stopPropagation();
      if (files.forget()) notify("It stays here.");
      else if (mistakes.length > 0) setMistakes([]);
      else leave();
    } else if (event.key.toLowerCase() === "e" && event.ctrlKey) {
      event.preventDefault();
      setPicking(event.shiftKey ? "times" : "template");
    }
  };
  // Wherever the focus is: one key leads back to the mail.
  useKeysOf(box, keys, (event) => event.key === "Escape" && leave());
  const picked = () => {
    setPicking(null);
    editor.current?.focus();
  };
  // Where the writing begins is settled before the draft is there: a new letter begins with whom it goes to.
  const isNew = composing.kind === "new" || composing.kind === "forward";
  return (
    <section
      ref={box}
      aria-label="Composer"
      data-draft={composing.draft ?? undefined}
      data-ready={draft !== null || undefined}
      // What lies over the letter has keys of its own.
      onKeyDown={(event) => event.target instanceof Node && box.current?.contains(event.target) && keys(event)}
      className="flex h-full min-h-0 min-w-0 flex-col bg-paper"
    >
      <header className="flex flex-wrap items-center gap-x-3 gap-y-1 border-b border-rule px-3.5 py-1.5">
        <h1 className="text-[15px] font-bold">{TITLES[kind]}</h1>
        {composing.of > 1 && (
          <span className="num text-[13px] text-ink-2">
            {composing.of - composing.next.length} of {composing.of}
          </span>
        )}
        <span
          role="status"
          data-testid="saved"
          className={`text-xs ${state.saved === "failed" ? "text-brick" : "text-ink-2"}`}
        >
          {{ saved: draft ? "stored" : "", saving: "storing…", unsaved: "…", failed: "not stored" }[state.saved]}
        </span>
        {draft?.waits && <span className="text-xs text-ink-2">then “{draft.waits.macro}” goes on</span>}
      </header>
      <div className="min-h-0 flex-1 overflow-y-auto px-3.5 py-1">
        {(composing.trouble ?? state.problem) && (
          <p role="alert" className="my-1 rounded-sm bg-brick-soft px-2 py-1 text-[13px]">
            {composing.trouble ?? state.problem}
          </p>
        )}
        {state.isElsewhere && <Elsewhere onReload={state.reload} onKeep={keepBeside} />}
        {own.length > 1 && (
          <label className="grid grid-cols-[52px_minmax(0,1fr)] items-center border-b border-rule-soft py-0.5 text-[13px] text-ink-2">
            from
            <select
              value={fields.sender?.address ?? ""}
              onChange={({ target }) => {
                const chosen = own.find(({ address }) => address === target.value);
                if (chosen) put({ sender: { name: chosen.name, address: chosen.address } });
              }}
              className="justify-self-start rounded-sm bg-transparent py-1 text-[14px] text-ink"
            >
              {own.map(({ id, name, address }) => (
                <option key={id} value={address}>
                  {name ? `${name} <${address}>` : address}
                </option>
              ))}
            </select>
          </label>
        )}
        <Recipients label="to" people={to} begins={isNew} onChange={(people) => put({ to: [...people] })} />
        {wide || cc.length > 0 || bcc.length > 0 ? (
          <>
            <Recipients label="cc" people={cc} onChange={(people) => put({ cc: [...people] })} />
            <Recipients label="bcc" people={bcc} onChange={(people) => put({ bcc: [...people] })} />
          </>
        ) : (
          <button type="button" className="py-0.5 text-xs text-ink-2 underline" onClick={() => setWide(true)}>
            copies to…
          </button>
        )}
        <label className="grid grid-cols-[52px_minmax(0,1fr)] items-center border-b border-rule-soft text-[13px] text-ink-2">
          subject
          <input
            ref={subjectField}
            value={subject}
            maxLength={2000}
            onChange={({ target }) => put({ subject: target.value })}
            className="bg-transparent py-1.5 text-[14px] font-semibold text-ink outline-none"
          />
        </label>
        <Toolbar
          plain={plain}
          onPlain={(next) => put({ plain: next })}
          onFormat={(format) => editor.current?.format(format)}
          onLink={(href) => editor.current?.link(href)}
          onFiles={files.add}
          onTemplate={() => setPicking("template")}
          onTimes={() => setPicking("times")}
        />
        <Editor
          handle={editor}
          label="Text"
          begins={!isNew}
          onChange={state.typed}
          onFiles={files.add}
          pictureAddress={files.address}
          quotedPicture={state.quotedPicture}
        />
        <Files state={files} answers={answers} />
      </div>
      <Mistakes mistakes={mistakes} onMend={mend} onSend={() => send("alone", true)} />
      <footer className="flex flex-wrap items-center gap-2 border-t border-rule px-3.5 py-2">
        <button
          type="button"
          onClick={() => send("alone")}
          className="rounded-sm bg-ink px-3 py-1.5 text-[13px] font-semibold text-paper"
        >
          Send <kbd>Ctrl ⏎</kbd>
        </button>
        {answers !== null && macro && (
          <button type="button" onClick={() => send("afterwards")} className={BUTTON}>
            Send and {macro.name.toLowerCase()} <kbd>Ctrl ⇧ ⏎</kbd>
          </button>
        )}
        {place && (
          <button type="button" onClick={() => send("filed")} className={BUTTON} title="Its copy goes there">
            Send, file to {place.path} {place.percent === null ? "" : `${place.percent} % `}
            <kbd className="max-md:hidden">Ctrl Alt ⏎</kbd>
          </button>
        )}
        <LaterBar fields={fields} onPut={put} />
        {draft && <Labels draft={draft.id} labels={draft.labels} />}
        <span className="ml-auto flex gap-2">
          <button type="button" onClick={leave} className={BUTTON}>
            Leave <kbd>Esc</kbd>
          </button>
          <button
            type="button"
            className={BUTTON}
            onClick={() => {
              files.forget();
              onClose();
              kept();
              if (composing.draft !== null)
                void write("DELETE", `/drafts/${composing.draft}`).then(
                  () => notify("The draft is thrown away. U brings it back."),
                  (error: Error) => notify(error.message, "trouble"),
                );
            }}
          >
            Throw away
          </button>
        </span>
      </footer>
      {picking === "template" && (
        <TemplatePicker
          answers={answers}
          onClose={picked}
          onTake={({ subject: filled, body }) => {
            setPicking(null);
            if (filled !== "" && (subject === "" || kind === "new")) put({ subject: filled });
            editor.current?.insert(body);
          }}
        />
      )}
      {picking === "times" && (
        <OfferPicker
          onClose={picked}
          onTake={(times) => {
            setPicking(null);
            editor.current?.insert(times);
          }}
        />
      )}
    </section>
  );
}
