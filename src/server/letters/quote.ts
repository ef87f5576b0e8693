import sanitizeHtml from "sanitize-html";
import { textOf } from "@/core/mail";
import { partsOf } from "../parse";
import { mediaType, type LetterFile } from "./mime";
import type { Answered } from "./originals";

/** An original as it stands below an answer. */
export interface Quote {
  readonly text: string;
  /** Cleaned; null where it says no more than the text, or too much. */
  readonly html: string | null;
  /** Those that its HTML shows, by their content ids. */
  readonly pictures: readonly Omit<LetterFile, "id">[];
}

/** A quote is no archive: what is longer stands in the original. */
const LONGEST_TEXT = 200_000;
const LONGEST_HTML = 1_000_000;
/** Bytes of all pictures together; what is beyond stays in the original. */
const MOST_PICTURE_BYTES = 8 * 1024 * 1024;

const SHAPE = ["style", "dir", "lang", "title", "align", "valign", "width", "height", "bgcolor", "color", "border"];
const TABLE = ["cellpadding", "cellspacing", "colspan", "rowspan"];

/** The original's HTML as it may be sent on: nothing that runs, asks for anything, or names what does not go along. */
function cleaned(html: string, pictures: ReadonlySet<string>): string {
  const fonts = ["img", "font", "center", "del", "ins", "big", "tt", "strike"];
  return sanitizeHtml(html, {
    allowedTags: [...sanitizeHtml.defaults.allowedTags, ...fonts],
    allowedAttributes: { "*": [...SHAPE, ...TABLE], a: ["href"], img: ["src", "alt"], font: ["face", "size"] },
    allowedSchemes: ["http", "https", "mailto", "tel"],
    allowedSchemesByTag: { img: ["http", "https", "cid", "data"] },
    allowProtocolRelative: false,
    nonTextTags: ["script", "style", "textarea", "option", "noscript", "title"],
    parseStyleAttributes: false,
    exclusiveFilter: ({ tag, attribs }) => {
      const src = attribs.src ?? "";
      return tag === "img" && (src === "" || (/^cid:/i.test(src) && !pictures.has(src.slice(4))));
    },
  });
}

/** An original's words, its HTML, and the pictures in it. */
export async function quoteOf({ raw, flaws }: Answered): Promise<Quote> {
  const { email } = await partsOf(raw, flaws);
  const { html } = email;
  const text = textOf(email).replace(/\r\n?/g, "\n").trimEnd().slice(0, LONGEST_TEXT);
  if (!html?.trim() || html.length > LONGEST_HTML) return { text, html: null, pictures: [] };
  const pictures = new Map<string, Omit<LetterFile, "id">>();
  let room = MOST_PICTURE_BYTES;
  for (const { contentId, content, filename, mimeType } of email.attachments) {
    const cid = contentId?.replace(/^<|>$/g, "") ?? "";
    // An id that would end a header or an attribute was never right, and nothing can show it.
    if (!/^[^\s<>"'&]{1,200}$/.test(cid) || !mimeType.startsWith("image/") || !html.includes(`cid:${cid}`)) continue;
    const data = typeof content === "string" ? new TextEncoder().encode(content) : new Uint8Array(content);
    room -= data.length;
    if (room < 0) break;
    pictures.set(cid, { name: filename ?? "picture", type: mediaType(mimeType), data, cid });
  }
  return { text, html: cleaned(html, new Set(pictures.keys())), pictures: [...pictures.values()] };
}
