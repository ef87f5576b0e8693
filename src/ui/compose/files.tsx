"use client";
import { useEffect, useEffectEvent, useRef, useState } from "react";
import type { DraftFile } from "@/core/api";
import { draftFileAddress, takeOutDraftFile, uploadDraftFile, write } from "../state/api";
import { notify } from "../state/store";
import { keepOpen } from "../state/uploads";

/** Bytes that may go along with one letter. */
const MOST_BYTES = 25 * 1024 * 1024;
const KB = 1024;

/** What is on its way to the draft. */
interface Coming {
  readonly name: string;
  /** In bytes. */
  readonly size: number;
}

export interface FilesState {
  readonly files: readonly DraftFile[];
  readonly problem: string | null;
  readonly coming: readonly Coming[];
  readonly add: (files: readonly File[]) => void;
  readonly addMessage: (message: number) => void;
  /** What was taken out since the letter was opened. */
  readonly out: readonly File[];
  readonly takeOut: (file: DraftFile) => void;
  readonly putBack: (file: File) => void;
  /** Whether the server has not heard of all of it yet. */
  readonly isBusy: boolean;
  readonly address: (file: number) => string;
  /** Does it as soon as everything is attached and taken out, instead of what was to be done then before; never if something cannot be. */
  readonly once: (act: () => void) => void;
  /** Does it no more. @returns whether something was to be done */
  readonly forget: () => boolean;
}

export const sizeText = (bytes: number): string =>
  bytes < KB * KB ? `${Math.max(1, Math.round(bytes / KB))} kB` : `${(bytes / KB / KB).toFixed(1)} MB`;

/** The number of a draft, for what is to be attached before the server has begun it. */
function makeGate() {
  let open!: (draft: number) => void;
  let shut!: () => void;
  const id = new Promise<number>((resolve, reject) => {
    open = resolve;
    shut = () => reject(new Error("the letter was left before the server had begun it."));
  });
  // Told where somebody waits for it.
  id.catch(() => undefined);
  return { id, open, shut };
}

/**
 * The files of a draft.
 * @param draft null until the server has begun it: what is attached waits for that
 * @param onChange changes the list as it is by then: several may come and go at once
 * @param onPicture puts a picture into the text
 */
export function useFiles(
  draft: number | null,
  files: readonly DraftFile[],
  onChange: (change: (files: DraftFile[]) => DraftFile[]) => void,
  onPicture: (file: number, name: string) => void,
): FilesState {
  const [problem, setProblem] = useState<string | null>(null);
  const [coming, setComing] = useState<readonly Coming[]>([]);
  /** One after another; whether all of them came. */
  const line = useRef<Promise<boolean>>(Promise.resolve(true));
  const under = useRef(0);
  const [out, setOut] = useState<readonly File[]>([]);
  /** Each whether it was taken out. */
  const [leaving, setLeaving] = useState<readonly Promise<boolean>[]>([]);
  const next = useRef<(() => void) | null>(null);
  const [gate] = useState(makeGate);
  useEffect(() => {
    if (draft !== null) gate.open(draft);
  }, [gate, draft]);
  const left = useEffectEvent(() => {
    gate.shut();
    // Nobody sees it any more: another letter may be open by the time all is attached.
    if (next.current)
      notify("The letter was left before all was attached: it is not sent, and lies in Drafts.", "trouble");
    next.current = null;
  });
  useEffect(() => () => left(), []);

  const attach = async (
    send: (draft: number) => Promise<DraftFile>,
    { name }: Coming,
    isPicture: boolean,
  ): Promise<boolean> => {
    try {
      const made = await keepOpen(gate.id.then(send));
      onChange((all) => [...all, made]);
      if (isPicture) onPicture(made.id, made.name);
      return true;
    } catch (error) {
      const why = `${name} is not attached: ${error instanceof Error ? error.message : "try again."}`;
      setProblem(why);
      // The letter may have been left meanwhile.
      notify(why, "trouble");
      return false;
    }
  };
  const put = (send: (draft: number) => Promise<DraftFile>, one: Coming, isPicture: boolean) => {
    setProblem(null);
    setComing((now) => [...now, one]);
    const before = under.current++ === 0 ? Promise.resolve(true) : line.current;
    line.current = before.then(async (isAll) => {
      const came = await attach(send, one, isPicture);
      under.current--;
      setComing((now) => now.filter((other) => other !== one));
      return came && isAll;
    });
  };
  return {
    files,
    problem,
    coming,
    add(chosen) {
      const total = [...files, ...coming, ...chosen].reduce((sum, { size }) => sum + size, 0);
      if (total > MOST_BYTES)
        return setProblem(`Files of one letter may have 25 MB together; these have ${sizeText(total)}.`);
      for (const file of chosen) put((to) => uploadDraftFile(to, file), file, file.type.startsWith("image/"));
    },
    addMessage(message) {
      const original = { name: "The original", size: 0 };
      put((to) => write<DraftFile>("POST", `/drafts/${to}/files?message=${message}`), original, false);
    },
    takeOut(file) {
      if (draft === null) return;
      setProblem(null);
      onChange((all) => all.filter(({ id }) => id !== file.id));
      const going = keepOpen(takeOutDraftFile(draft, file)).then(
        (taken) => {
          setOut((all) => [...all, taken]);
          return true;
        },
        (error: Error) => {
          onChange((all) => [...all, file]);
          setProblem(`${file.name} is not taken out: ${error.message}`);
          return false;
        },
      );
      setLeaving((all) => [...all, going]);
      void going.then(() => setLeaving((all) => all.filter((one) => one !== going)));
    },
    out,
    putBack(file) {
      setOut((all) => all.filter((one) => one !== file));
      put((to) => uploadDraftFile(to, file), file, false);
    },
    isBusy: coming.length > 0 || leaving.length > 0,
    address: (file) => draftFileAddress(draft ?? 0, file),
    once(act) {
      next.current = act;
      void Promise.all([line.current, ...leaving]).then((done) => {
        if (next.current !== act) return;
        next.current = null;
        if (done.every(Boolean)) act();
      });
    },
    forget() {
      const was = next.current !== null;
      next.current = null;
      return was;
    },
  };
}

/** What goes along with a letter. @param answers a message that can go along as it came */
export function Files({ state, answers }: { readonly state: FilesState; readonly answers: number | null }) {
  const { files, problem, coming, out } = state;
  const box = useRef<HTMLDivElement>(null);
  /** The button goes with its file: keys are still those of the letter. */
  const staying = (act: () => void) => () => {
    box.current?.focus();
    act();
  };
  return (
    <div
      ref={box}
      role="group"
      aria-label="Files"
      tabIndex={-1}
      className="flex flex-wrap items-center gap-1.5 py-1.5 text-[13px] outline-none"
    >
      {files.map((file) => (
        <span key={file.id} className="flex items-center gap-1.5 rounded-sm border border-rule bg-sheet px-1.5 py-0.5">
          {file.name} <span className="num text-xs text-ink-2">{sizeText(file.size)}</span>
          <button type="button" aria-label={`Take ${file.name} out`} onClick={staying(() => state.takeOut(file))}>
            ×
          </button>
        </span>
      ))}
      {out.map((file, i) => (
        <span key={`${i} ${file.name}`} className="flex items-center gap-1.5 px-1.5 py-0.5 text-ink-2">
          <s>{file.name}</s>
          <button
            type="button"
            aria-label={`Put ${file.name} back`}
            onClick={staying(() => state.putBack(file))}
            className="underline"
          >
            put back
          </button>
        </span>
      ))}
      {coming.length > 0 && <span role="status">Attaching {coming.map(({ name }) => name).join(", ")}…</span>}
      {answers !== null && (
        <button type="button" onClick={() => state.addMessage(answers)} className="text-xs text-ink-2 underline">
          attach the original as a message
        </button>
      )}
      {problem && (
        <p role="alert" className="w-full rounded-sm bg-brick-soft px-2 py-1">
          {problem}
        </p>
      )}
    </div>
  );
}
