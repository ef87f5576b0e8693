import { createHash, randomBytes } from "node:crypto";
import { existsSync, readFileSync } from "node:fs";
import { join } from "node:path";

/**
 * The policy of pages (W3C Content Security Policy, level 3): they load nothing from anywhere else, may not be put into
 * another page, and of scripts that stand in the page itself run those alone that were built into it.
 */

const SAME = [
  "default-src 'self'",
  "style-src 'self' 'unsafe-inline'",
  "img-src 'self' data: blob: https: http:",
  "worker-src 'self' blob:",
  "frame-src 'self'",
  "frame-ancestors 'none'",
  "base-uri 'none'",
  "form-action 'self'",
];
const policy = (...scripts: readonly string[]): string =>
  [...SAME, `script-src 'self' ${scripts.join(" ")}`].join("; ");

const INLINE = /<script(?![^>]*\ssrc=)[^>]*>([^]*?)<\/script>/g;
/** Where the page for what is not found stands among those that were built. */
const NOT_FOUND = "/_not-found";

/** Where programs stand that pages load: they are no pages. */
const PROGRAMS = "/_next/";

/** What names each script in a page by its digest. @param html as it is sent */
export const scriptsIn = (html: string): readonly string[] =>
  [...html.matchAll(INLINE)].map(([, text]) => `'sha256-${createHash("sha256").update(text!).digest("base64")}'`);

/** The scripts of the pages that were built, by their paths. @param folder what the build has made */
export function builtPages(folder: string): ReadonlyMap<string, readonly string[]> {
  const manifest = join(folder, "prerender-manifest.json");
  if (!existsSync(manifest)) throw new Error(`${folder} holds no build: npm run build makes one.`);
  const { routes } = JSON.parse(readFileSync(manifest, "utf8")) as { routes: Record<string, unknown> };
  const pages = new Map<string, readonly string[]>();
  for (const path of Object.keys(routes)) {
    const file = join(folder, "server", "app", `${path === "/" ? "/index" : path}.html`);
    if (existsSync(file)) pages.set(path, scriptsIn(readFileSync(file, "utf8")));
  }
  return pages;
}

let built: ReadonlyMap<string, readonly string[]> | null = null;

/**
 * The policy of a page. One that is made when it is asked for is told in its own request, as Next.js wants it, which
 * word its scripts are to carry.
 * @returns isMade: whether the page is
 */
export function policyOf(path: string): { readonly text: string; readonly isMade: boolean } {
  if (path.startsWith(PROGRAMS)) return { text: policy(), isMade: false };
  built ??= builtPages(join(process.cwd(), ".next"));
  const scripts = built.get(path);
  if (scripts) return { text: policy(...scripts), isMade: false };
  // What is at no path is a page that was built.
  return {
    text: policy(`'nonce-${randomBytes(16).toString("base64")}'`, ...(built.get(NOT_FOUND) ?? [])),
    isMade: true,
  };
}
