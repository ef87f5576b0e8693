/**
 * Opens the app without a connection: keeps the pages and programs of one build, and hands them out when the server
 * does not answer. Mail is none of its business; that is kept by the windows (see kept-answers.ts).
 * W3C Service Workers.
 */

/** Put in by the build: which it is, and every file of it that a window may ask for. */
declare const BUILD: string;
declare const FILES: readonly string[];

interface Waiting extends Event {
  waitUntil(work: Promise<unknown>): void;
}
interface Installing extends Waiting {
  /** Not every browser has it. */
  addRoutes?(routes: readonly { condition: object; source: string }[]): Promise<void>;
}
interface Fetching extends Event {
  readonly request: Request;
  respondWith(answer: Promise<Response>): void;
}
interface Worker {
  skipWaiting(): Promise<void>;
  readonly clients: { claim(): Promise<void> };
  addEventListener(type: "install", listener: (event: Installing) => void): void;
  addEventListener(type: "activate", listener: (event: Waiting) => void): void;
  addEventListener(type: "fetch", listener: (event: Fetching) => void): void;
  addEventListener(type: "message", listener: (event: MessageEvent) => void): void;
}

const worker = self as unknown as Worker;
const NAME = `tachyne-pages-${BUILD}`;
const PAGES = [
  "/",
  "/ledger",
  "/tasks",
  "/agenda",
  "/contacts",
  "/senders",
  "/pace",
  "/rules",
  "/places",
  "/workshop",
  "/templates",
  "/import",
  "/compose",
];
const EXTRA = ["/manifest.webmanifest", "/icon.svg"];
/** A network that says nothing for so long is as good as none. */
const PATIENCE_MS = 4000;
/** What the app's own links ask for in the place of a page. */
const PART = "rsc";

const partKey = (path: string): string => `${path}?${PART}`;

/** Where a page or a part of one is kept; null for what is not kept by path. */
function keyOf(request: Request): string | null {
  const { pathname } = new URL(request.url);
  if (!PAGES.includes(pathname)) return EXTRA.includes(pathname) ? pathname : null;
  if (request.headers.get(PART) === null) return pathname;
  // What is fetched ahead comes in pieces, which mean nothing to somebody else.
  return request.headers.get("next-router-prefetch") === null ? partKey(pathname) : null;
}

async function install(): Promise<void> {
  const cache = await caches.open(NAME);
  await cache.addAll([...FILES, ...EXTRA]);
  for (const path of PAGES) {
    const [page, part] = await Promise.all([fetch(path), fetch(path, { headers: { [PART]: "1" } })]);
    if (!page.ok || !part.ok) throw new Error(`${path} cannot be kept.`);
    await Promise.all([cache.put(path, page), cache.put(partKey(path), part)]);
  }
}

/** The pages of other builds are let go. */
async function tidy(): Promise<void> {
  for (const name of await caches.keys())
    if (name.startsWith("tachyne-pages-") && name !== NAME) await caches.delete(name);
  await worker.clients.claim();
}

/** The server's, which is the newest there is; what was kept where it does not answer. */
async function page(request: Request, key: string): Promise<Response> {
  const fresh = fetch(request);
  const late = new Promise<null>((resolve) => setTimeout(() => resolve(null), PATIENCE_MS));
  const answer = await Promise.race([fresh, late]).catch(() => null);
  // A server whose database is away shows its pages all the same; whatever stands before it may not.
  if (answer && answer.status < 500) return answer;
  const kept = await caches.match(key, { cacheName: NAME, ignoreVary: true });
  return kept ?? fresh;
}

/** Files have their content in their name, so what was kept is what the server would send. */
async function file(request: Request): Promise<Response> {
  const kept = await caches.match(request, { ignoreVary: true });
  // Without an address of its own, the answer has the one that was asked for: of a worker that holds what it is to run.
  return kept ? new Response(kept.body, { headers: kept.headers }) : fetch(request);
}

worker.addEventListener("install", (event) => {
  // While there is a connection nobody waits for this worker to wake up: whoever answers first is taken.
  const files = { condition: { urlPattern: "/_next/static/*" }, source: "race-network-and-fetch-handler" };
  const pages = { condition: { requestMode: "navigate" }, source: "race-network-and-fetch-handler" };
  const routes = event.addRoutes?.([files, pages]).catch(() => undefined);
  event.waitUntil(Promise.all([install(), routes]));
});
worker.addEventListener("activate", (event) => event.waitUntil(tidy()));
// A newer version waits until the person wants it.
worker.addEventListener("message", ({ data }) => {
  if (data === "take over") void worker.skipWaiting();
});
worker.addEventListener("fetch", (event) => {
  const { request } = event;
  const { origin, pathname } = new URL(request.url);
  if (request.method !== "GET" || origin !== location.origin || pathname.startsWith("/api/")) return;
  if (pathname.startsWith("/_next/static/")) return event.respondWith(file(request));
  const key = keyOf(request);
  if (key !== null) event.respondWith(page(request, key));
});
