import { useCallback, useEffect, useRef, useState } from "react";
import type { DraftShape } from "@/core/api";
import type { Doc } from "@/core/letter";
import { Away, get, write } from "../state/api";
import type { Fields, Letter } from "../state/letters";
import { DraftWriter, type Rest, type Saved } from "./draft-writer";

const RETRY_MS = 2000;

export interface DraftState {
  readonly draft: DraftShape | null;
  /** What was put before the draft was there; then what it holds. */
  readonly fields: Partial<Fields>;
  /** Puts some fields; they are stored after a moment. */
  readonly put: (fields: Partial<Fields>) => void;
  /** Notes that the text was changed. */
  readonly typed: () => void;
  readonly saved: Saved;
  readonly isElsewhere: boolean;
  readonly problem: string | null;
  /** What the server does not have now, and once nothing is on its way any more, when nobody goes on writing here. */
  readonly rest: () => Rest;
  readonly handOver: () => Promise<Rest>;
  /** Reads the draft anew, and drops what was written here. */
  readonly reload: () => void;
  /** The file of a picture in what is quoted, by its content id. */
  readonly quotedPicture: (cid: string) => number | undefined;
  readonly changeFiles: (change: (files: DraftShape["files"]) => DraftShape["files"]) => void;
}

interface Host {
  /** What the editor holds; null before it is there. */
  readonly doc: () => Doc | null;
  /** Puts a document into the editor; anew, in the place of what was typed. */
  readonly take: (doc: Doc, anew: boolean) => void;
  /** The server cannot have this now, and has it. */
  readonly keep: (rest: Rest) => void;
  readonly kept: () => void;
}

/**
 * A draft as it is being written.
 * @param id null until the server has begun it
 * @param guess what the fields hold until then
 * @param resumed what was written before, where that was kept in the browser
 */
export function useDraft(
  id: number | null,
  guess: Partial<Fields>,
  { doc, take, keep, kept }: Host,
  resumed: Letter | null,
): DraftState {
  const [draft, setDraft] = useState<DraftShape | null>(null);
  const [early, setEarly] = useState(guess);
  const [{ saved, problem }, setSaid] = useState<{ saved: Saved; problem: string | null }>({
    saved: "saved",
    problem: null,
  });
  const [isElsewhere, setElsewhere] = useState(false);
  const [loads, setLoads] = useState(0);
  const [writer] = useState(
    () =>
      new DraftWriter({
        patch: (of, body) => write<DraftShape>("PATCH", `/drafts/${of}`, body),
        doc,
        said: (next, why) => setSaid({ saved: next, problem: why }),
        elsewhere: () => setElsewhere(true),
        keep,
        kept,
      }),
  );
  const pictures = useRef<ReadonlyMap<string, number>>(new Map());
  useEffect(() => {
    if (resumed) {
      if (resumed.body) take(resumed.body, true);
      writer.resume(resumed);
    }
    return () => writer.end();
  }, [writer, resumed, take]);
  useEffect(() => {
    if (id === null) return;
    let isOld = false;
    void (async () => {
      while (!isOld)
        try {
          const read = await get<DraftShape>(`/drafts/${id}`);
          if (isOld) return;
          pictures.current = new Map(read.files.flatMap(({ id: file, cid }) => (cid === null ? [] : [[cid, file]])));
          // What was kept here is all of the text; whether it still goes on what is there, the server says.
          const isWhole = resumed !== null && resumed.draft !== null && loads === 0;
          if (!isWhole || resumed.body === null) take(read.body, loads > 0);
          setDraft({ ...read, ...writer.begin(id, isWhole ? resumed.version : read.version) });
          return setSaid((said) => ({ ...said, problem: null }));
        } catch (error) {
          if (isOld) return;
          const why = error instanceof Error ? error.message : "The draft could not be read.";
          setSaid({ saved: "failed", problem: why });
          if (!(error instanceof Away)) return;
          // It is read once the server is back.
          await new Promise<void>((resolve) => setTimeout(resolve, RETRY_MS));
        }
    })();
    return () => {
      isOld = true;
    };
  }, [id, loads, take, writer, resumed]);

  const put = useCallback(
    (fields: Partial<Fields>) => {
      writer.put(fields);
      setDraft((before) => before && { ...before, ...fields });
      setEarly((before) => ({ ...before, ...fields }));
    },
    [writer],
  );
  return {
    draft,
    fields: draft ?? early,
    put,
    typed: useCallback(() => writer.typed(), [writer]),
    saved,
    isElsewhere,
    problem,
    rest: useCallback(() => writer.rest(), [writer]),
    handOver: useCallback(() => writer.handOver(), [writer]),
    reload: () => {
      writer.forget();
      setElsewhere(false);
      setLoads((n) => n + 1);
    },
    quotedPicture: (cid) => pictures.current.get(cid),
    changeFiles: (change) => setDraft((before) => before && { ...before, files: change(before.files) }),
  };
}
