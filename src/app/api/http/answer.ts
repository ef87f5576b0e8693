import type { z } from "zod";
import { isStorable, percentDecoded } from "@/core/text";
import {
  checkProved,
  log,
  noteRequest,
  processDatabase,
  takesNothing,
  Refusal,
  whichProgram,
  whoIsAsking,
  type Asking,
  type Context,
  type From,
} from "@/server/act";
import { closesWhenEnding } from "./ending";
import { comesFrom, isOwn, isPublic, siteOf } from "./hosts";
import { problem } from "./problem";
import { body, shortNumber } from "./read";
import { scopeOf } from "./scopes";
import { bearerOf, tokenOf } from "./session";
import { shares } from "./shares";

interface Incoming {
  readonly request: Request;
  readonly params: Readonly<Record<string, string>>;
  readonly query: URLSearchParams;
  /** What is known of whoever asks before they are signed in. */
  readonly from: From;
}
/** A request of somebody who is signed in. */
export type Asked = Incoming & Asking;
/** One that anybody may make. */
export type AskedByAnybody = Incoming & { readonly asking: Asking | null };

/** Routes without a part in braces are given none. */
type Params = { params: Promise<Record<string, string> | undefined> };

/** PostgreSQL's code for a statement that took longer than it may. */
const TOOK_TOO_LONG = "57014";
/** And for a row of which there may be one only; this one has the ids that clients make. */
const THERE_ALREADY = "23505";
const LEDGER_IDS = "ledger_run";

const API = "/api/v1";

/** What is said where the database takes nothing in: it is tried again, and nobody's work is lost by it. */
const NOT_STORED = {
  full: { title: "The disk is full", detail: "The server's disk is full: whoever runs it has to make room." },
  "read-only": {
    title: "Nothing is stored now",
    detail: "The server's database is set to be read only: whoever runs it knows why.",
  },
  busy: { title: "Too much at once", detail: "The server's database has more to do than it can: it is tried again." },
};

/** Errors name what was tried, never what was in the mail; parameters stay out of the log. */
function failed(request: Request, route: string, error: unknown): Response {
  if (error instanceof Refusal) {
    const { code, after, ...more } = error.more;
    const answer = problem(error.status, error.title, error.detail, {
      ...more,
      ...(code ? { type: `urn:tachyne:${code}` } : {}),
    });
    if (after !== undefined) answer.headers.set("retry-after", String(after));
    return answer;
  }
  const cause = (error as { cause?: unknown }).cause ?? error;
  const code = String((cause as { code?: unknown }).code ?? "");
  if (code === TOOK_TOO_LONG)
    return problem(422, "This takes too long", "Ask for less at once: narrow by sender, folder or date first.");
  if (code === THERE_ALREADY && (cause as { constraint_name?: unknown }).constraint_name === LEDGER_IDS)
    return problem(409, "Used before", "That id was used for something else. Make a new one, and send it again.");
  const why = takesNothing(error);
  if (why !== null)
    return problem(503, NOT_STORED[why].title, NOT_STORED[why].detail, { type: "urn:tachyne:not-stored" });
  log.fault("a request failed", error, { method: request.method, route });
  if (/^(08|57P|CONN|ECONN)/.test(code))
    return problem(503, "The database is away", "It is asked for again with the next request. Nothing was changed.");
  return problem(500, "Something went wrong here", "Nothing was changed. The server's log says more.");
}

/** Who asks, by the token of a program or the cookie of a browser; null for nobody who is known. */
export function askingOf(db: From["db"], request: Request): Promise<Asking | null> {
  const bearer = bearerOf(request);
  return bearer === null ? whoIsAsking(db, tokenOf(request)) : whichProgram(db, bearer);
}

/** What is somebody's stays in no cache, and is taken for nothing but what it says it is. */
function finished(answer: Response): Response {
  const { headers } = answer;
  if (!headers.has("cache-control")) headers.set("cache-control", "no-store");
  headers.set("x-content-type-options", "nosniff");
  return closesWhenEnding(answer);
}

/** The path as the API's description has it: what stands for somebody's things is left out. */
function routeOf(pathname: string, params: Readonly<Record<string, string>>): string {
  const names = Object.entries(params);
  const part = (text: string): string => {
    const found = names.find(([, value]) => percentDecoded(value) === percentDecoded(text));
    return found ? `{${found[0]}}` : text;
  };
  return pathname.slice(API.length).split("/").map(part).join("/");
}

/** A route that anybody may ask: refuses foreign requests, and turns errors into problem details. */
export function openRoute(answer: (asked: AskedByAnybody) => Promise<Response>) {
  return async (request: Request, { params }: Params): Promise<Response> => {
    if (!isOwn(request.headers))
      return problem(403, "Not from here", "Tachyne answers only its own pages, under the names that it has.");
    const began = performance.now();
    const { pathname, searchParams: query } = new URL(request.url);
    const given = (await params) ?? {};
    const route = routeOf(pathname, given);
    const done = (answer: Response) => {
      noteRequest(request.method, route, answer.status, (performance.now() - began) / 1000);
      return finished(answer);
    };
    try {
      for (const text of [...Object.values(given), ...query.values()])
        if (!isStorable(text)) throw new Refusal(400, "Not a text", "The address holds a character that nothing has.");
      const db = processDatabase();
      const { headers } = request;
      const from = {
        db,
        agent: headers.get("user-agent") ?? "",
        address: comesFrom(headers),
        isPublic: isPublic(),
        site: siteOf(headers),
      };
      const asking = await askingOf(db, request);
      return done(await answer({ request, params: given, query, from, asking }));
    } catch (error) {
      return done(failed(request, route, error));
    }
  };
}

/** A program does what its token allows, and nothing that is the person's alone. */
function checkScope({ method, url }: Request, { scopes }: Context): void {
  if (!scopes) return;
  const needed = scopeOf(method, new URL(url).pathname.slice(API.length));
  if (needed === null) throw new Refusal(403, "Not with a token", "Only the person themselves can do that, signed in.");
  if (!scopes.includes(needed))
    throw new Refusal(403, "Not with this token", `It may ${scopes.join(" and ")}; this takes one that may ${needed}.`);
}

/** Files come as fast as the network brings them: they are no reason for what is small to wait. */
const isSentSlowly = ({ headers, body: sent }: Request): boolean =>
  sent !== null && !/^application\/json\b/i.test(headers.get("content-type") ?? "");

/** A route of somebody's own: whoever is not signed in is told so, and nothing else. */
export const route = (answer: (asked: Asked) => Promise<Response>) =>
  openRoute(async ({ asking, ...asked }) => {
    if (!asking) throw new Refusal(401, "Not signed in", "Sign in first: your session is over, or there was none.");
    checkScope(asked.request, asking.context);
    const work = () => answer({ ...asked, ...asking });
    const { request } = asked;
    return isSentSlowly(request) ? work() : shares().take(asking.context.person, request.signal, work);
  });

/** One that makes what lets somebody in: they have shown of late who they are. */
export const provedRoute = (answer: (asked: Asked) => Promise<Response>) =>
  route(async (asked) => {
    await checkProved(asked.context, asked.session);
    return answer(asked);
  });

/** GET and POST of a kind of thing. */
export const collection = <T extends z.ZodType>(
  list: (context: Context) => Promise<unknown>,
  shape: T,
  create: (context: Context, body: z.infer<T>) => Promise<unknown>,
) => ({
  GET: route(async ({ context }) => Response.json(await list(context))),
  POST: route(async ({ context, request }) =>
    Response.json(await create(context, await body(request, shape)), { status: 201 }),
  ),
});

/** PATCH and DELETE of one of them. */
export const item = <T extends z.ZodType>(
  shape: T,
  change: (context: Context, id: number, body: z.infer<T>) => Promise<unknown>,
  remove: (context: Context, id: number) => Promise<void>,
) => ({
  PATCH: route(async ({ context, params, request }) =>
    Response.json(await change(context, shortNumber(params.id), await body(request, shape))),
  ),
  DELETE: route(async ({ context, params }) => {
    await remove(context, shortNumber(params.id));
    return new Response(null, { status: 204 });
  }),
});

const MEDIA_TYPE = /^[a-z0-9][a-z0-9.+-]{0,60}\/[a-z0-9][a-z0-9.+-]{0,80}$/i;

/** Bytes to be saved, never shown: what is attached to a message must not run as a page of this site. */
export function download(bytes: Uint8Array | ReadableStream, type: string, name: string): Response {
  const plain = name.replace(/[^\x20-\x7e]|["\\]/g, "_");
  return new Response(bytes as BodyInit, {
    headers: {
      "content-type": MEDIA_TYPE.test(type) ? type : "application/octet-stream",
      "content-disposition": `attachment; filename="${plain}"; filename*=UTF-8''${encodeURIComponent(name)}`,
      "content-security-policy": "default-src 'none'; sandbox",
      "x-content-type-options": "nosniff",
      "cache-control": "private, no-store",
    },
  });
}
