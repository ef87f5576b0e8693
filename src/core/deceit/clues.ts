import { Parser } from "htmlparser2";
import { cut } from "../text";
import { shownDomain, orgOf } from "./domains";

/** A link as it is read, the domain its words name, and the one it leads to. */
export interface FalseLink {
  readonly text: string;
  readonly said: string;
  readonly to: string;
}

/** What a source holds that may be meant to deceive, read once; what it means depends on whom the person knows. */
export interface Clues {
  /** Links whose text names another place than the one they lead to. */
  readonly links: readonly FalseLink[];
  /** Addresses that answers are to go to. */
  readonly replyTo: readonly string[];
  /** What servers say failed (Authentication-Results, RFC 8601), the last that looked at it first. */
  readonly failed: readonly { readonly server: string; readonly check: string }[];
  /** Names of attachments that are not what they look like, or that run. */
  readonly files: readonly string[];
}

export const NO_CLUES: Clues = { links: [], replyTo: [], failed: [], files: [] };

const LONGEST_HTML = 200_000;
const MOST_LINKS = 500;
const KEPT = 5;
const LONGEST_KEPT = 200;

/** What a text that begins like an address of the web names, in front of anything else. */
const NAMES_HOST =
  /^(?:https?:\/\/)?((?:[\p{L}\p{N}](?:[\p{L}\p{N}-]{0,61}[\p{L}\p{N}])?\.){1,8}\p{L}{2,63})(?=[/:?#\s]|$)/iu;
/** "plan.pdf" is the name of a file. */
const FILE_ENDS = new Set(
  "pdf doc docx xls xlsx ppt pptx odt ods odp zip gz tar jpg jpeg png gif webp svg html htm txt ics csv md mp3 mp4 eml xml json".split(
    " ",
  ),
);

function hostIn(text: string): string | null {
  const found = NAMES_HOST.exec(text.trim())?.[1];
  if (!found) return null;
  const end = found.slice(found.lastIndexOf(".") + 1).toLowerCase();
  return FILE_ENDS.has(end) && !/^https?:/i.test(text.trim()) ? null : shownDomain(found);
}

/** Where a link really leads: only what the browser would ask. */
function hostOf(href: string): string | null {
  try {
    const { protocol, hostname } = new URL(href);
    return /^https?:$/.test(protocol) ? shownDomain(hostname) : null;
  } catch {
    return null;
  }
}

/** Links of an HTML text whose words name one place while they lead to another. */
export function falseLinks(html: string): FalseLink[] {
  if (!/<a[\s/]/i.test(html)) return [];
  const found = new Map<string, FalseLink>();
  let href: string | null = null;
  let text = "";
  let links = 0;
  const end = () => {
    const said = href === null ? null : hostIn(text);
    const to = href === null ? null : hostOf(href);
    if (said !== null && to !== null && orgOf(said) !== orgOf(to) && found.size < KEPT)
      found.set(to, { text: cut(text.trim(), LONGEST_KEPT), said, to });
    href = null;
  };
  const parser = new Parser(
    {
      onopentag(name, { href: target }) {
        if (name !== "a" || target === undefined || ++links > MOST_LINKS) return;
        end();
        [href, text] = [target, ""];
      },
      ontext(words) {
        if (href !== null && text.length < LONGEST_KEPT * 5) text += words;
      },
      onclosetag(name) {
        if (name === "a") end();
      },
    },
    { decodeEntities: true },
  );
  parser.write(html.slice(0, LONGEST_HTML));
  parser.end();
  return [...found.values()];
}

/** Files that run, or that lead a program to run something; mail has no good reason to carry them. */
const RUNS = new Set(
  "exe scr com bat cmd pif msi msix jar js jse vbs vbe wsf wsh hta lnk url reg cpl ps1 chm iso img vhd dll sys scf docm xlsm pptm dotm xltm".split(
    " ",
  ),
);
/** Pages: harmless to look at, but they may ask for a password as if they were somebody's. */
const PAGES = new Set(["html", "htm", "shtml", "xhtml", "svg", "mht", "mhtml"]);
/** Turns the direction of writing around, so that "gpj.exe" reads "exe.jpg". */
const TURNS = /[\u202a-\u202e\u2066-\u2069]/u;

export const oddFiles = (names: readonly string[]): string[] =>
  names
    .filter((name) => {
      const end = name
        .slice(name.lastIndexOf(".") + 1)
        .trim()
        .toLowerCase();
      return name.includes(".") && (RUNS.has(end) || PAGES.has(end) || TURNS.test(name));
    })
    .slice(0, KEPT)
    .map((name) => cut(name, LONGEST_KEPT));

const MOST_RESULTS = 10;

/** Of each header of a server the checks that failed; one that some other method passed for is not among them. */
export function failedChecks(headers: readonly string[]): { server: string; check: string }[] {
  return headers.slice(0, MOST_RESULTS).flatMap((header) => {
    // Comments may hold anything, and nothing in them counts.
    const [first = "", ...results] = header.replace(/\([^()]*\)/g, " ").split(";");
    const server = first.trim().split(/\s+/)[0]?.toLowerCase() ?? "";
    const of = new Map(
      results.flatMap((result) => {
        const [, method, outcome] = /^\s*(spf|dkim|dmarc)\s*(?:\/\s*\d+\s*)?=\s*([a-z]+)/i.exec(result) ?? [];
        return method && outcome ? [[method.toLowerCase(), outcome.toLowerCase()] as const] : [];
      }),
    );
    const failed = (method: string) => of.get(method) === "fail" || of.get(method) === "hardfail";
    if (server === "" || of.get("dmarc") === "pass") return [];
    if (failed("dmarc")) return [{ server, check: "dmarc=fail" }];
    const passed = of.get("spf") === "pass" || of.get("dkim") === "pass";
    const check = ["dkim", "spf"].find(failed);
    return passed || check === undefined ? [] : [{ server, check: `${check}=fail` }];
  });
}
