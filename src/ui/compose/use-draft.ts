import { useCallback, useEffect, useRef, useState } from "react";
import type { DraftShape } from "@/core/api";
import type { Doc } from "@/core/letter";
import { get, write } from "../state/api";
import { DraftWriter, type Fields, type Saved } from "./draft-writer";

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
  /** Stores what is not stored yet. @param left nobody goes on writing @returns the version */
  readonly save: (left: boolean) => Promise<number>;
  /** Reads the draft anew, and drops what was written here. */
  readonly reload: () => void;
  /** The file of a picture in what is quoted, by its content id. */
  readonly quotedPicture: (cid: string) => number | undefined;
  readonly takeFiles: (files: DraftShape["files"]) => void;
}

/**
 * A draft as it is being written.
 * @param id null until the server has begun it
 * @param guess what the fields hold until then
 * @param doc what the editor holds; null before it is there
 * @param take puts a document into the editor; anew, in the place of what was typed
 */
export function useDraft(
  id: number | null,
  guess: Partial<Fields>,
  doc: () => Doc | null,
  take: (doc: Doc, anew: boolean) => void,
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
      }),
  );
  const isOver = useRef(false);
  const pictures = useRef<ReadonlyMap<string, number>>(new Map());
  useEffect(() => {
    isOver.current = false;
    return () => {
      isOver.current = true;
      writer.end();
    };
  }, [writer]);
  useEffect(() => {
    if (id === null) return;
    void (async () => {
      try {
        const read = await get<DraftShape>(`/drafts/${id}`);
        if (isOver.current) return;
        pictures.current = new Map(read.files.flatMap(({ id: file, cid }) => (cid === null ? [] : [[cid, file]])));
        take(read.body, loads > 0);
        setDraft({ ...read, ...writer.begin(id, read.version) });
      } catch (error) {
        const why = error instanceof Error ? error.message : "The draft could not be read.";
        setSaid({ saved: "failed", problem: why });
      }
    })();
  }, [id, loads, take, writer]);

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
    save: useCallback((left: boolean) => writer.save(left), [writer]),
    reload: () => {
      writer.forget();
      setElsewhere(false);
      setLoads((n) => n + 1);
    },
    quotedPicture: (cid) => pictures.current.get(cid),
    takeFiles: (files) => setDraft((before) => before && { ...before, files }),
  };
}
