import * as z from "zod";

/**
 * What a person writes, as the editor holds it: paragraphs, lists, quotes, links, bold and italic, pictures, and the
 * quoted original as one piece at the end. A plain text is the same with paragraphs alone.
 */
export type Mark =
  | { readonly type: "strong" }
  | { readonly type: "em" }
  | { readonly type: "link"; readonly attrs: { readonly href: string } };

export type Inline =
  | { readonly type: "text"; readonly text: string; readonly marks?: readonly Mark[] | undefined }
  | { readonly type: "hard_break" }
  /** A picture of the letter's own: the number of its file. */
  | { readonly type: "image"; readonly attrs: { readonly file: number; readonly alt: string } };

export interface ListItem {
  readonly type: "list_item";
  readonly content: readonly Block[];
}

/** The original as it was: its words, and its HTML, cleaned, if it has one. */
export interface Quoted {
  readonly type: "quoted";
  readonly attrs: {
    readonly intro: string;
    readonly text: string;
    readonly html: string | null;
    /** The message it is of, so that its HTML can be fetched. */
    readonly message: number | null;
  };
}

export type Block =
  | { readonly type: "paragraph"; readonly content?: readonly Inline[] | undefined }
  | { readonly type: "blockquote"; readonly content: readonly Block[] }
  | { readonly type: "bullet_list" | "ordered_list"; readonly content: readonly ListItem[] }
  | Quoted;

export interface Doc {
  readonly type: "doc";
  readonly content: readonly Block[];
}

/** Addresses a link may have; anything else is text. */
export const LINK = /^(https?:\/\/|mailto:|tel:)[^\s\p{Cc}]{1,2000}$/iu;

const mark = z.discriminatedUnion("type", [
  z.strictObject({ type: z.literal("strong") }),
  z.strictObject({ type: z.literal("em") }),
  z.strictObject({ type: z.literal("link"), attrs: z.strictObject({ href: z.string().regex(LINK) }) }),
]);
const inline = z.discriminatedUnion("type", [
  z.strictObject({ type: z.literal("text"), text: z.string().max(200_000), marks: z.array(mark).max(3).optional() }),
  z.strictObject({ type: z.literal("hard_break") }),
  z.strictObject({
    type: z.literal("image"),
    attrs: z.strictObject({ file: z.number().int().min(1), alt: z.string().max(200) }),
  }),
]);
const quoted = z.strictObject({
  type: z.literal("quoted"),
  attrs: z.strictObject({
    intro: z.string().max(1000),
    text: z.string().max(1_000_000),
    html: z.string().max(2_000_000).nullable(),
    message: z.number().int().nullable(),
  }),
});

const blocks = () => z.array(blockSchema).max(20_000);
const listItem = z.strictObject({
  type: z.literal("list_item"),
  get content() {
    return blocks();
  },
});
const listOf = <K extends "bullet_list" | "ordered_list">(kind: K) =>
  z.strictObject({
    type: z.literal(kind),
    get content() {
      return z.array(listItem).max(20_000);
    },
  });

// A schema that holds itself has no type that could be written out: what it reads is Block by what it is made of.
const blockSchema: z.ZodType<Block> = z
  .discriminatedUnion("type", [
    z.strictObject({ type: z.literal("paragraph"), content: z.array(inline).max(20_000).optional() }),
    z.strictObject({
      type: z.literal("blockquote"),
      get content() {
        return blocks();
      },
    }) as never,
    listOf("bullet_list") as never,
    listOf("ordered_list") as never,
    quoted,
  ])
  .meta({ id: "Block" }) as never;

export const docSchema: z.ZodType<Doc> = z.strictObject({
  type: z.literal("doc"),
  content: z.array(blockSchema).max(20_000),
}) as never;

export const EMPTY_DOC: Doc = { type: "doc", content: [{ type: "paragraph" }] };

const textNode = (text: string): Inline[] => (text === "" ? [] : [{ type: "text", text }]);

/** A text as paragraphs, one a line. */
export const docOfText = (text: string): Doc => ({
  type: "doc",
  content: text
    .replace(/\r\n?/g, "\n")
    .split("\n")
    .map((line): Block => ({ type: "paragraph", ...(line === "" ? {} : { content: textNode(line) }) })),
});

/** The same document with each of its texts replaced. */
export function mapTexts(doc: Doc, change: (text: string) => string): Doc {
  const inlineOf = (one: Inline): Inline[] => {
    if (one.type !== "text") return [one];
    const text = change(one.text);
    return text === "" ? [] : [{ ...one, text }];
  };
  const blockOf = (block: Block): Block => {
    switch (block.type) {
      case "paragraph":
        return block.content ? { ...block, content: block.content.flatMap(inlineOf) } : block;
      case "blockquote":
        return { ...block, content: block.content.map(blockOf) };
      case "quoted":
        return block;
      default:
        return {
          ...block,
          content: block.content.map((item) => ({ ...item, content: item.content.map(blockOf) })),
        };
    }
  };
  return { ...doc, content: doc.content.map(blockOf) };
}

/** The texts of a document in the order they are read, but for what is quoted. */
export function textsOf(doc: Doc): string[] {
  const out: string[] = [];
  mapTexts(doc, (text) => {
    out.push(text);
    return text;
  });
  return out;
}

/** The files its pictures are of. */
export function picturesOf(doc: Doc): number[] {
  const out: number[] = [];
  const walk = (blocks: readonly Block[]): void => {
    for (const block of blocks) {
      if (block.type === "paragraph")
        for (const one of block.content ?? []) if (one.type === "image") out.push(one.attrs.file);
      if (block.type === "blockquote") walk(block.content);
      if (block.type === "bullet_list" || block.type === "ordered_list")
        for (const item of block.content) walk(item.content);
    }
  };
  walk(doc.content);
  return out;
}

/** The HTML of what it quotes. */
export const quotesOf = (doc: Doc): string[] =>
  doc.content.flatMap((block) => (block.type === "quoted" && block.attrs.html !== null ? [block.attrs.html] : []));

/** Whether nobody has written anything into it: quotes and empty lines are nothing written. */
export const isBlank = (doc: Doc): boolean =>
  textsOf(doc).every((text) => text.trim() === "") && picturesOf(doc).length === 0;

/** Whether it says more than plain text can. */
export function isRich(doc: Doc): boolean {
  const rich = (block: Block): boolean => {
    if (block.type === "paragraph")
      return (block.content ?? []).some(
        (one) => one.type === "image" || (one.type === "text" && (one.marks?.length ?? 0) > 0),
      );
    return block.type === "quoted" ? block.attrs.html !== null : true;
  };
  return doc.content.some(rich);
}

const isEmptyParagraph = (block: Block | undefined): boolean =>
  block?.type === "paragraph" && (block.content ?? []).length === 0;

/** Puts what was typed above a document, in the place of the empty line it begins with; nothing twice. */
export function docAbove(typed: Doc, doc: Doc): Doc {
  const { content } = typed;
  const begins = content.every((block, i) => JSON.stringify(block) === JSON.stringify(doc.content[i]));
  if (content.length === 0 || begins) return doc;
  return { type: "doc", content: [...content, ...doc.content.slice(isEmptyParagraph(doc.content[0]) ? 1 : 0)] };
}
