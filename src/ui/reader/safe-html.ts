import DOMPurify from "dompurify";
import { percentDecoded } from "@/core/text";
import { fileAddress } from "../state/api";

/**
 * Mail's HTML made safe to look at. Three walls, each enough by itself: what could run or send is taken out
 * here; the frame it is shown in has a sandbox without scripts; and a policy in the frame lets nothing be
 * fetched, but for pictures once the person asks for them.
 */
const FORBIDDEN_TAGS = [
  "script",
  "iframe",
  "object",
  "embed",
  "form",
  "input",
  "button",
  "textarea",
  "select",
  "meta",
  "base",
  "link",
  "svg",
  "math",
  "audio",
  "video",
  "source",
  "track",
];
const REMOTE = /^\s*(https?:)?\/\//i;
const FETCHING_STYLE = /url\s*\(|@import|image-set|expression/i;
/** Letters may be written as numbers (CSS Syntax 3, consuming an escaped code point). */
const ESCAPED = /\\(?:([\da-f]{1,6})\s?|(.))/gis;
const fetches = (css: string): boolean =>
  FETCHING_STYLE.test(
    css.replace(ESCAPED, (_, hex: string | undefined, letter: string) =>
      hex === undefined ? letter : String.fromCodePoint(Math.min(Number.parseInt(hex, 16), 0x10ffff)),
    ),
  );

export interface SafePage {
  /** Which page it is: the document says it too, as `data-page`. */
  readonly key: string;
  readonly document: string;
  /** Pictures that were kept from being fetched. */
  readonly blocked: number;
}

export interface PageOptions {
  readonly message: number;
  /** Pictures inside the message: content id to the number of its file. */
  readonly inline: ReadonlyMap<string, number>;
  readonly showRemote: boolean;
  readonly night: boolean;
}

function policy(showRemote: boolean): string {
  return `default-src 'none'; style-src 'unsafe-inline'; img-src data: 'self'${showRemote ? " https: http:" : ""}; form-action 'none'; base-uri 'none'`;
}

/** How many pages were made. */
let pages = 0;
let cleaner: ReturnType<typeof DOMPurify> | undefined;

/** @returns a whole page for the frame's srcdoc */
export function safePage(html: string, { message, inline, showRemote, night }: PageOptions): SafePage {
  const purify = (cleaner ??= DOMPurify(window));
  purify.removeAllHooks();
  let blocked = 0;
  purify.addHook("uponSanitizeElement", (node, { tagName }) => {
    if (tagName === "style" && fetches(node.textContent ?? "")) node.textContent = "";
  });
  purify.addHook("afterSanitizeAttributes", (node) => {
    for (const name of ["src", "background", "poster", "srcset"]) {
      const value = node.getAttribute(name);
      if (value === null) continue;
      const cid = /^\s*cid:(.+)$/i.exec(value)?.[1]?.trim();
      const file = cid === undefined ? undefined : inline.get(percentDecoded(cid));
      if (name === "src" && file !== undefined) node.setAttribute("src", fileAddress(message, file));
      else if (name === "src" && /^\s*data:image\//i.test(value)) continue;
      else if (name === "src" && showRemote && REMOTE.test(value)) continue;
      else {
        if (REMOTE.test(value)) blocked++;
        node.removeAttribute(name);
      }
    }
    const style = node.getAttribute("style");
    if (style && fetches(style)) node.removeAttribute("style");
    if (node.tagName === "A") {
      node.setAttribute("target", "_blank");
      node.setAttribute("rel", "noopener noreferrer");
      node.setAttribute("title", node.getAttribute("href") ?? "");
    }
  });
  const body = purify.sanitize(html, {
    WHOLE_DOCUMENT: false,
    FORBID_TAGS: FORBIDDEN_TAGS,
    FORBID_ATTR: ["ping", "formaction", "action"],
    ALLOW_DATA_ATTR: false,
    ADD_TAGS: ["style"],
    FORCE_BODY: true,
  });
  // Mail brings its own colours, made for a light page: it is shown on one by night too.
  const look = `html{background:#fbfdfc;color:#10201f;color-scheme:light}body{margin:0;padding:${night ? "12px" : "2px"};font:14px/1.45 sans-serif;overflow-wrap:anywhere}img{max-width:100%;height:auto}table{max-width:100%}mark{background:#f7e2bd;color:#10201f;text-decoration:underline #8f4c00 2px}mark[data-here]{outline:2px solid #10201f}summary{cursor:pointer;color:#51615e}`;
  const key = String(++pages);
  const document = `<!doctype html><html lang="en" data-page="${key}"><head><meta charset="utf-8"><meta http-equiv="Content-Security-Policy" content="${policy(showRemote)}"><title>Message</title><style>${look}</style></head><body>${body}</body></html>`;
  return { key, document, blocked };
}
