"use client";
import { Fragment } from "prosemirror-model";
import { EditorState, Selection } from "prosemirror-state";
import { EditorView } from "prosemirror-view";
import { useEffect, useImperativeHandle, useRef, type Ref } from "react";
import { EMPTY_DOC, type Doc } from "@/core/letter";
import { letKeysGo } from "../input/held-keys";
import { FORMATS, isUntouched, plugins, schema, type Format } from "./schema";
import { cleanHtml, QuotedView } from "./quoted-view";

/** What the composer does with the text. */
export interface EditorHandle {
  readonly doc: () => Doc;
  /** Puts a document in; what was typed meanwhile stays above it, unless it is to be anew. */
  readonly take: (doc: Doc, anew?: boolean) => void;
  /** Shows a document in place of the one that is there, unless it is the same; the caret stays as near as it can. */
  readonly show: (doc: Doc) => void;
  readonly format: (format: Format) => void;
  readonly link: (href: string) => void;
  readonly picture: (file: number, alt: string) => void;
  readonly insert: (doc: Doc) => void;
  readonly focus: () => void;
}

interface Props {
  readonly handle: Ref<EditorHandle>;
  readonly label: string;
  /** Whether it is written in from the beginning. */
  readonly begins: boolean;
  readonly onChange: () => void;
  /** Files that were pasted or dropped into the text. */
  readonly onFiles: (files: readonly File[]) => void;
  /** Where the picture of a file is shown from. */
  readonly pictureAddress: (file: number) => string;
  /** Which file a picture of the quoted original is, by its content id. */
  readonly quotedPicture?: (cid: string) => number | undefined;
}

const nodeOf = (doc: Doc) => schema.nodeFromJSON(doc);

/** The text of a letter. Keys that decide about the letter go through to the composer. */
export function Editor({ handle, label, begins, onChange, onFiles, pictureAddress, quotedPicture }: Props) {
  const box = useRef<HTMLDivElement>(null);
  const view = useRef<EditorView>(null);
  const first = useRef({ label, begins });
  const latest = useRef({ onChange, onFiles, pictureAddress, quotedPicture });
  useEffect(() => {
    latest.current = { onChange, onFiles, pictureAddress, quotedPicture };
  });
  useEffect(() => {
    const filesOf = (data: DataTransfer | null): boolean => {
      const files = [...(data?.files ?? [])];
      if (files.length === 0) return false;
      latest.current.onFiles(files);
      return true;
    };
    const made = new EditorView(box.current!, {
      state: EditorState.create({ doc: nodeOf(EMPTY_DOC), plugins: plugins() }),
      attributes: {
        role: "textbox",
        "aria-multiline": "true",
        "aria-label": first.current.label,
        class: "letter-text",
      },
      transformPastedHTML: cleanHtml,
      handlePaste: (_, event) => filesOf(event.clipboardData),
      handleDrop: (_, event) => filesOf(event.dataTransfer),
      nodeViews: {
        quoted: (node, editor, getPos) =>
          new QuotedView(node, editor, getPos, (cid) => {
            const file = latest.current.quotedPicture?.(cid);
            return file === undefined ? undefined : latest.current.pictureAddress(file);
          }),
        image: (node) => {
          const dom = document.createElement("img");
          dom.src = latest.current.pictureAddress(Number(node.attrs.file));
          dom.alt = String(node.attrs.alt);
          return { dom };
        },
      },
      dispatchTransaction(transaction) {
        made.updateState(made.state.apply(transaction));
        if (transaction.docChanged && transaction.getMeta("taken") !== true) latest.current.onChange();
      },
    });
    view.current = made;
    if (first.current.begins) {
      made.focus();
      letKeysGo("letter");
    }
    return () => made.destroy();
  }, []);
  useImperativeHandle(handle, (): EditorHandle => {
    const own = () => view.current!;
    /** Another text is there, with the caret at that place or as near as it can be; nobody typed it. */
    const put = (content: Fragment, caret: number) => {
      const { state } = own();
      const transaction = state.tr.replaceWith(0, state.doc.content.size, content);
      const at = Math.min(caret, transaction.doc.content.size);
      transaction.setSelection(Selection.near(transaction.doc.resolve(at)));
      own().dispatch(transaction.setMeta("taken", true).setMeta("addToHistory", false));
    };
    return {
      doc: () => own().state.doc.toJSON() as Doc,
      take(doc, anew = false) {
        const { state } = own();
        const fresh = nodeOf(doc);
        const typed = anew || isUntouched(state.doc) ? Fragment.empty : state.doc.content;
        // The empty line a letter begins with is where the person is writing already.
        const rest =
          typed.size > 0 && fresh.firstChild?.content.size === 0
            ? fresh.content.cut(fresh.firstChild.nodeSize)
            : fresh.content;
        put(typed.append(rest), typed.size > 0 ? state.selection.head : 0);
      },
      show(doc) {
        const { state } = own();
        const fresh = nodeOf(doc);
        if (!fresh.eq(state.doc)) put(fresh.content, state.selection.head);
      },
      format(format) {
        FORMATS[format](own().state, own().dispatch);
        own().focus();
      },
      link(href) {
        const { state } = own();
        const mark = schema.marks.link!.create({ href });
        const { from, to, empty } = state.selection;
        own().dispatch(empty ? state.tr.insert(from, schema.text(href, [mark])) : state.tr.addMark(from, to, mark));
        own().focus();
      },
      picture(file, alt) {
        own().dispatch(own().state.tr.replaceSelectionWith(schema.nodes.image!.create({ file, alt })));
      },
      insert(doc) {
        const { state } = own();
        own().dispatch(state.tr.replaceSelection(nodeOf(doc).slice(0)).scrollIntoView());
        own().focus();
      },
      focus: () => own().focus(),
    };
  }, []);
  return <div ref={box} className="min-h-40" />;
}
