"use client";
import { useState } from "react";
import type { DraftFile } from "@/core/api";
import { draftFileAddress, uploadDraftFile, write } from "../state/api";

/** Bytes that may go along with one letter. */
const MOST_BYTES = 25 * 1024 * 1024;
const KB = 1024;

export interface FilesState {
  readonly files: readonly DraftFile[];
  readonly problem: string | null;
  readonly busy: number;
  readonly add: (files: readonly File[]) => void;
  readonly addMessage: (message: number) => void;
  readonly remove: (file: DraftFile) => void;
  readonly address: (file: number) => string;
}

export const sizeText = (bytes: number): string =>
  bytes < KB * KB ? `${Math.max(1, Math.round(bytes / KB))} kB` : `${(bytes / KB / KB).toFixed(1)} MB`;

/** The files of a draft. @param onPicture puts a picture into the text */
export function useFiles(
  draft: number | null,
  files: readonly DraftFile[],
  onChange: (files: DraftFile[]) => void,
  onPicture: (file: number, name: string) => void,
): FilesState {
  const [problem, setProblem] = useState<string | null>(null);
  const [busy, setBusy] = useState(0);
  const put = async (send: () => Promise<DraftFile>, isPicture: boolean, so: readonly DraftFile[]) => {
    setBusy((n) => n + 1);
    setProblem(null);
    try {
      const made = await send();
      onChange([...so, made]);
      if (isPicture) onPicture(made.id, made.name);
      return [...so, made];
    } catch (error) {
      setProblem(error instanceof Error ? error.message : "The file could not be attached.");
      return so;
    } finally {
      setBusy((n) => n - 1);
    }
  };
  return {
    files,
    problem,
    busy,
    add(chosen) {
      if (draft === null) return setProblem("The draft is not there yet. Attach it in a moment.");
      const total = [...files, ...chosen].reduce((sum, { size }) => sum + size, 0);
      if (total > MOST_BYTES)
        return setProblem(`Files of one letter may have 25 MB together; these have ${sizeText(total)}.`);
      void (async () => {
        let so: readonly DraftFile[] = files;
        for (const file of chosen)
          so = await put(() => uploadDraftFile(draft, file), file.type.startsWith("image/"), so);
      })();
    },
    addMessage(message) {
      if (draft === null) return setProblem("The draft is not there yet. Attach it in a moment.");
      void put(() => write<DraftFile>("POST", `/drafts/${draft}/files?message=${message}`), false, files);
    },
    remove(file) {
      if (draft === null) return;
      void write("DELETE", `/drafts/${draft}/files/${file.id}`).then(
        () => onChange(files.filter(({ id }) => id !== file.id)),
        (error: Error) => setProblem(error.message),
      );
    },
    address: (file) => draftFileAddress(draft ?? 0, file),
  };
}

/** What goes along with a letter. @param answers a message that can go along as it came */
export function Files({ state, answers }: { readonly state: FilesState; readonly answers: number | null }) {
  const { files, problem, busy } = state;
  return (
    <div className="flex flex-wrap items-center gap-1.5 py-1.5 text-[13px]">
      {files.map((file) => (
        <span key={file.id} className="flex items-center gap-1.5 rounded-sm border border-rule bg-sheet px-1.5 py-0.5">
          {file.name} <span className="num text-xs text-ink-2">{sizeText(file.size)}</span>
          <button type="button" aria-label={`Take ${file.name} out`} onClick={() => state.remove(file)}>
            ×
          </button>
        </span>
      ))}
      {busy > 0 && <span role="status">Attaching…</span>}
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
