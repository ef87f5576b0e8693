import type { Block, Doc, Inline, Mark } from "./doc";

/** A document as it goes out: as HTML, and as text whose lines may flow (RFC 3676). */

const ENTITIES: Readonly<Record<string, string>> = { "&": "&amp;", "<": "&lt;", ">": "&gt;", '"': "&quot;" };
export const escapeHtml = (text: string): string => text.replace(/[&<>"]/g, (char) => ENTITIES[char]!);

/** Spaces that would be lost at the ends and in rows. */
const spaced = (text: string): string =>
  escapeHtml(text)
    .replace(/\t/g, "    ")
    .replace(/ (?= )|^ | $/g, "&nbsp;");

const WRAP: Record<Exclude<Mark["type"], "link">, string> = { strong: "b", em: "i" };

function marked(inner: string, marks: readonly Mark[]): string {
  return marks.reduce(
    (html, mark) =>
      mark.type === "link"
        ? `<a href="${escapeHtml(mark.attrs.href)}">${html}</a>`
        : `<${WRAP[mark.type]}>${html}</${WRAP[mark.type]}>`,
    inner,
  );
}

/** @param cidOf the content id of a file */
function inlineHtml(one: Inline, cidOf: (file: number) => string): string {
  if (one.type === "hard_break") return "<br>";
  if (one.type === "image")
    return `<img src="cid:${escapeHtml(cidOf(one.attrs.file))}" alt="${escapeHtml(one.attrs.alt)}">`;
  return marked(spaced(one.text), one.marks ?? []);
}

const lines = (text: string): string => text.split("\n").map(spaced).join("<br>\n");

function blockHtml(block: Block, cidOf: (file: number) => string): string {
  const all = (blocks: readonly Block[]) => blocks.map((one) => blockHtml(one, cidOf)).join("\n");
  switch (block.type) {
    case "paragraph":
      return `<p style="margin:0">${(block.content ?? []).map((one) => inlineHtml(one, cidOf)).join("") || "<br>"}</p>`;
    case "blockquote":
      return `<blockquote>${all(block.content)}</blockquote>`;
    case "quoted": {
      const { intro, text, html } = block.attrs;
      return `<p style="margin:0">${lines(intro)}</p>\n<blockquote type="cite">${html ?? lines(text)}</blockquote>`;
    }
    default: {
      const tag = block.type === "bullet_list" ? "ul" : "ol";
      return `<${tag}>${block.content.map((item) => `<li>${all(item.content)}</li>`).join("\n")}</${tag}>`;
    }
  }
}

/** @param cidOf the content id of a file */
export const htmlOf = (doc: Doc, cidOf: (file: number) => string): string =>
  `<!doctype html>\n<html><body>\n${doc.content.map((block) => blockHtml(block, cidOf)).join("\n")}\n</body></html>\n`;

/** A line of text, and how deep it is quoted. */
interface Line {
  readonly depth: number;
  readonly text: string;
}

function inlineText(content: readonly Inline[]): string[] {
  let text = "";
  for (const one of content) {
    if (one.type === "hard_break") text += "\n";
    else if (one.type === "image") text += one.attrs.alt === "" ? "[picture]" : `[picture: ${one.attrs.alt}]`;
    else {
      const link = one.marks?.find((mark) => mark.type === "link");
      const href = link?.attrs.href ?? "";
      text += href === "" || href === one.text || href === `mailto:${one.text}` ? one.text : `${one.text} <${href}>`;
    }
  }
  return text.split("\n");
}

function blockLines(block: Block, depth: number, indent: string): Line[] {
  switch (block.type) {
    case "paragraph":
      return inlineText(block.content ?? []).map((text) => ({ depth, text: text === "" ? "" : indent + text }));
    case "blockquote":
      return block.content.flatMap((one) => blockLines(one, depth + 1, ""));
    case "quoted":
      return [
        ...block.attrs.intro.split("\n").map((text) => ({ depth, text })),
        ...block.attrs.text.split("\n").map((line) => {
          const marks = /^(?:> ?)*/.exec(line)![0];
          return { depth: depth + 1 + (marks.match(/>/g)?.length ?? 0), text: line.slice(marks.length) };
        }),
      ];
    default:
      return block.content.flatMap((item, i) => {
        const mark = block.type === "bullet_list" ? "- " : `${i + 1}. `;
        return item.content
          .flatMap((one) => blockLines(one, depth, `${indent}  `))
          .map((line, n) =>
            n === 0 ? { ...line, text: `${indent}${mark}${line.text.slice(indent.length + 2)}` } : line,
          );
      });
  }
}

/** As text in lines, quotes marked by ">". */
export const plainOf = (doc: Doc): string =>
  doc.content
    .flatMap((block) => blockLines(block, 0, ""))
    .map(({ depth, text }) => (depth === 0 ? text : `${">".repeat(depth)} ${text}`.trimEnd()))
    .join("\n");

/** Lines flow at this width; no line of what is sent is longer, but for a word that is. */
const WIDTH = 72;

/** One line in pieces, each but the last ending in a space: who reads flowing text puts them together again. */
function flow(text: string): string[] {
  const out: string[] = [];
  let rest = text;
  while (rest.length > WIDTH) {
    let at = rest.lastIndexOf(" ", WIDTH - 1);
    if (at < 1) at = rest.indexOf(" ", WIDTH);
    // A piece that is two dashes alone would begin a signature.
    if (at === 2 && rest.startsWith("-- ")) at = rest.indexOf(" ", 3);
    // No space at the end, nor many in a row: those would be lost where the pieces are put together.
    if (at < 1 || at === rest.length - 1) break;
    out.push(rest.slice(0, at + 1));
    rest = rest.slice(at + 1);
  }
  return [...out, rest];
}

/** What would be taken for something else at the beginning of a line gets a space before it (RFC 3676, 4.4). */
const stuffed = (piece: string): string => (/^(?: |>|From )/.test(piece) ? ` ${piece}` : piece);

/** As text that flows: what `text/plain; format=flowed` announces. */
export const flowedOf = (doc: Doc): string =>
  doc.content
    .flatMap((block) => blockLines(block, 0, ""))
    .flatMap(({ depth, text }) => {
      // "-- " alone begins a signature, and does not flow.
      const pieces = text === "-- " ? [text] : flow(text.trimEnd());
      return pieces.map((piece) => (depth === 0 ? stuffed(piece) : `${">".repeat(depth)} ${piece}`));
    })
    .join("\n");
