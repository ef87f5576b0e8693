import { useCallback, useEffect, useRef, useState } from "react";
import type { DraftShape, Message } from "@/core/api";
import type { Doc } from "@/core/letter";
import { get, write } from "../state/api";
import { DraftWriter, type Fields, type Saved } from "./draft-writer";
import { cleanHtml } from "./quoted-view";

const MOST_HTML = 1_500_000;

/** The draft with its quote as the original looks, where that is more than text. */
async function withHtml(draft: DraftShape): Promise<Doc> {
  const quoted = draft.body.content.find((block) => block.type === "quoted");
  if (quoted?.type !== "quoted" || quoted.attrs.html !== null || quoted.attrs.message === null) return draft.body;
  const { html } = await get<Message>(`/messages/${quoted.attrs.message}`).catch(() => ({ html: null }));
  if (html === null || html.length > MOST_HTML) return draft.body;
  // Pictures inside the original do not go along, so nothing may point to them.
  const clean = cleanHtml(html).replace(/<img[^>]*src="cid:[^"]*"[^>]*>/gi, "");
  const attrs = { ...quoted.attrs, html: clean };
  return { ...draft.body, content: draft.body.content.map((one) => (one === quoted ? { ...quoted, attrs } : one)) };
}

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
        const text = await withHtml(read);
        if (isOver.current) return;
        take(text, loads > 0);
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
    takeFiles: (files) => setDraft((before) => before && { ...before, files }),
  };
}
