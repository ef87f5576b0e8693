import { baseKeymap, toggleMark, wrapIn } from "prosemirror-commands";
import { history, redo, undo } from "prosemirror-history";
import { keymap } from "prosemirror-keymap";
import { Schema, type DOMOutputSpec, type Node as DocNode } from "prosemirror-model";
import { liftListItem, sinkListItem, splitListItem, wrapInList } from "prosemirror-schema-list";
import type { Command, Plugin } from "prosemirror-state";
import { LINK } from "@/core/letter";

/** What the editor knows of a letter: the shape of core/letter/doc, on the screen. */

const P: DOMOutputSpec = ["p", 0];

export const schema = new Schema({
  nodes: {
    doc: { content: "block+" },
    paragraph: { content: "inline*", group: "block", parseDOM: [{ tag: "p" }, { tag: "div" }], toDOM: () => P },
    blockquote: {
      content: "block+",
      group: "block",
      defining: true,
      parseDOM: [{ tag: "blockquote" }],
      toDOM: () => ["blockquote", 0],
    },
    bullet_list: {
      content: "list_item+",
      group: "block",
      parseDOM: [{ tag: "ul" }],
      toDOM: () => ["ul", 0],
    },
    ordered_list: {
      content: "list_item+",
      group: "block",
      parseDOM: [{ tag: "ol" }],
      toDOM: () => ["ol", 0],
    },
    list_item: { content: "paragraph block*", defining: true, parseDOM: [{ tag: "li" }], toDOM: () => ["li", 0] },
    quoted: {
      group: "block",
      atom: true,
      selectable: true,
      attrs: { intro: { default: "" }, text: { default: "" }, html: { default: null }, message: { default: null } },
      toDOM: () => ["div", { "data-quoted": "" }],
    },
    text: { group: "inline" },
    hard_break: {
      inline: true,
      group: "inline",
      selectable: false,
      parseDOM: [{ tag: "br" }],
      toDOM: () => ["br"],
    },
    image: {
      inline: true,
      group: "inline",
      attrs: { file: {}, alt: { default: "" } },
      toDOM: (node) => ["img", { alt: String(node.attrs.alt), "data-file": String(node.attrs.file) }],
    },
  },
  marks: {
    link: {
      attrs: { href: {} },
      inclusive: false,
      parseDOM: [
        {
          tag: "a[href]",
          getAttrs: (element) => {
            const href = element.getAttribute("href") ?? "";
            return LINK.test(href) ? { href } : false;
          },
        },
      ],
      toDOM: (mark) => ["a", { href: String(mark.attrs.href), title: String(mark.attrs.href) }, 0],
    },
    em: { parseDOM: [{ tag: "i" }, { tag: "em" }], toDOM: () => ["em", 0] },
    strong: { parseDOM: [{ tag: "b" }, { tag: "strong" }], toDOM: () => ["strong", 0] },
  },
});

const { nodes, marks } = schema;

const newLine: Command = (state, dispatch) => {
  dispatch?.(state.tr.replaceSelectionWith(nodes.hard_break!.create()).scrollIntoView());
  return true;
};

/** What buttons and keys do to the text. */
export const FORMATS = {
  bold: toggleMark(marks.strong!),
  italic: toggleMark(marks.em!),
  list: wrapInList(nodes.bullet_list!),
  numbers: wrapInList(nodes.ordered_list!),
  quote: wrapIn(nodes.blockquote!),
} satisfies Record<string, Command>;
export type Format = keyof typeof FORMATS;

export const plugins = (): Plugin[] => [
  history(),
  keymap({
    "Mod-z": undo,
    "Mod-y": redo,
    "Shift-Mod-z": redo,
    "Mod-b": FORMATS.bold,
    "Mod-i": FORMATS.italic,
    "Shift-Mod-8": FORMATS.list,
    "Shift-Mod-7": FORMATS.numbers,
    "Shift-Mod-9": FORMATS.quote,
    Enter: splitListItem(nodes.list_item!),
    "Shift-Enter": newLine,
    Tab: sinkListItem(nodes.list_item!),
    "Shift-Tab": liftListItem(nodes.list_item!),
  }),
  keymap({ ...baseKeymap, "Mod-Enter": () => false }),
];

/** Whether nothing but quotes and empty lines stands in it. */
export function isUntouched(doc: DocNode): boolean {
  let touched = false;
  doc.descendants((node) => {
    if (node.isText || node.type === nodes.image) touched = true;
    return !touched;
  });
  return !touched;
}
