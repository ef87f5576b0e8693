import type { z } from "zod";
import { isStorable } from "@/core/text";
import { processDatabase, Refusal, whoIsAsking, type Context } from "@/server/act";
import { isOwn } from "./hosts";
import { problem } from "./problem";
import { body, shortNumber } from "./read";

export interface Asked {
  readonly request: Request;
  readonly context: Context;
  readonly params: Readonly<Record<string, string>>;
  readonly query: URLSearchParams;
}

/** Routes without a part in braces are given none. */
type Params = { params: Promise<Record<string, string> | undefined> };

/** PostgreSQL's code for a statement that took longer than it may. */
const TOOK_TOO_LONG = "57014";

/** Errors name what was tried, never what was in the mail; parameters stay out of the log. */
function failed(request: Request, error: unknown): Response {
  if (error instanceof Refusal) {
    const { code, ...more } = error.more;
    return problem(error.status, error.title, error.detail, {
      ...more,
      ...(code ? { type: `urn:tachyne:${code}` } : {}),
    });
  }
  const cause = (error as { cause?: unknown }).cause ?? error;
  const code = String((cause as { code?: unknown }).code ?? "");
  if (code === TOOK_TOO_LONG)
    return problem(422, "This takes too long", "Ask for less at once: narrow by sender, folder or date first.");
  console.error(
    `${request.method} ${new URL(request.url).pathname} failed: ${code || (cause as Error).message?.slice(0, 200)}`,
  );
  if (/^(08|57P|CONN|ECONN)/.test(code))
    return problem(503, "The database is away", "It is asked for again with the next request. Nothing was changed.");
  return problem(500, "Something went wrong here", "Nothing was changed. The server's log says more.");
}

/** A route: refuses foreign requests, finds out who is asking, and turns errors into problem details. */
export function route(answer: (asked: Asked) => Promise<Response>) {
  return async (request: Request, { params }: Params): Promise<Response> => {
    if (!isOwn(request.headers))
      return problem(403, "Not from here", "Tachyne answers only its own pages and programs on this machine.");
    try {
      const query = new URL(request.url).searchParams;
      const given = (await params) ?? {};
      for (const text of [...Object.values(given), ...query.values()])
        if (!isStorable(text)) throw new Refusal(400, "Not a text", "The address holds a character that nothing has.");
      const context = await whoIsAsking(processDatabase());
      return await answer({ request, context, params: given, query });
    } catch (error) {
      return failed(request, error);
    }
  };
}

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
