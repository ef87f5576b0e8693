import { z } from "zod";
import { processDatabase, Refusal, whoIsAsking, type Context } from "@/server/act";
import { isTooDeep } from "@/core/macro";
import { isOwn } from "./hosts";

export interface Asked {
  readonly request: Request;
  readonly context: Context;
  readonly params: Readonly<Record<string, string>>;
  readonly query: URLSearchParams;
}

type Params = { params: Promise<Record<string, string>> };

/** RFC 9457. */
export function problem(status: number, title: string, detail: string, issues?: Refusal["issues"]): Response {
  return Response.json(
    { type: "about:blank", title, status, detail, ...(issues ? { issues } : {}) },
    { status, headers: { "content-type": "application/problem+json" } },
  );
}

/** Errors name what was tried, never what was in the mail; parameters stay out of the log. */
function failed(request: Request, error: unknown): Response {
  if (error instanceof Refusal) return problem(error.status, error.title, error.detail, error.issues);
  const cause = (error as { cause?: unknown }).cause ?? error;
  const code = String((cause as { code?: unknown }).code ?? "");
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
      const context = await whoIsAsking(processDatabase());
      return await answer({ request, context, params: await params, query: new URL(request.url).searchParams });
    } catch (error) {
      return failed(request, error);
    }
  };
}

export async function body<T extends z.ZodType>(request: Request, shape: T): Promise<z.infer<T>> {
  let raw: unknown;
  try {
    raw = await request.json();
  } catch {
    throw new Refusal(400, "Not JSON", "The request's body must be JSON.");
  }
  if (isTooDeep(raw)) throw new Refusal(422, "The request does not fit", "The body is nested too deep.");
  return checked(raw, shape);
}

/** For requests whose body may be left out. */
export async function bodyOrNothing<T extends z.ZodType>(request: Request, shape: T): Promise<z.infer<T>> {
  const text = await request.text();
  if (text.trim() === "") return checked({}, shape);
  return body(new Request(request.url, { method: "POST", body: text }), shape);
}

export function checked<T extends z.ZodType>(raw: unknown, shape: T): z.infer<T> {
  const read = shape.safeParse(raw);
  if (read.success) return read.data;
  const detail = read.error.issues.slice(0, 5).map((issue) => `${issue.path.join(".") || "body"}: ${issue.message}`);
  throw new Refusal(422, "The request does not fit", detail.join("; "));
}

export function number(text: string | null | undefined, name: string, least = 1): number {
  const value = Number(text);
  if (text === null || text === undefined || text === "" || !Number.isSafeInteger(value) || value < least)
    throw new Refusal(400, "Not a number", `"${name}" must be a whole number from ${least} on.`);
  return value;
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
    Response.json(await change(context, number(params.id, "id"), await body(request, shape))),
  ),
  DELETE: route(async ({ context, params }) => {
    await remove(context, number(params.id, "id"));
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
