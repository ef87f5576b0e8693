import { decodeIndex, type Index } from "@/core/columns";
import type { CardsAnswer, DraftFile, IcsTaken, ProblemShape } from "@/core/api";
import { SIGN_IN, toSignIn } from "./signed-in";

/** The server said no, and why. */
export class Refused extends Error {
  override readonly name = "Refused";
  constructor(readonly problem: ProblemShape) {
    super(problem.detail);
  }
}

/** The server cannot be reached, or its database cannot: worth trying again. */
export class Away extends Error {
  override readonly name = "Away";
  /** @param why what keeps it from storing anything, where it is there and says so */
  constructor(
    message: string,
    readonly why: string | null = null,
  ) {
    super(message);
  }
}

/** Nobody is signed in here any more: what is kept for a server that is away is not shown. */
export class SignedOut extends Away {}

/** The server is there and could not do it: it may be a fault that will be met each time. */
export class Failed extends Error {
  override readonly name = "Failed";
}

const BASE = "/api/v1";
/** Where everything is exported from. */
export const EVERYTHING = `${BASE}/archive`;
/** Where what filing has taught is taken along from. */
export const FILING_EXPORT = `${BASE}/filing/export`;
/** A server that says nothing for so long is as good as away. */
const PATIENCE_MS = 30_000;

/** The status of an answer to nobody who is known. */
const UNKNOWN = 401;
/** The type of the answer where as much of this person's is under way as may be: it is asked again. */
const TOO_MUCH = "urn:tachyne:too-much";
/** The type of the answer of a server that can store nothing now. */
const NOT_STORED = "urn:tachyne:not-stored";
const KEPT_ALIVE_BYTES = 30_000;

/** Two clocks are apart where they differ by more than an answer takes, and than the second it is told in. */
const APART_MS = 5000;
let aheadMs = 0;
/** The server's time, as far as its answers have told it; milliseconds since 1970. */
export const serverNow = (): number => Date.now() + aheadMs;

function noteTime(told: string | null): void {
  const ahead = Date.parse(told ?? "") - Date.now();
  if (!Number.isNaN(ahead)) aheadMs = Math.abs(ahead) > APART_MS ? ahead : 0;
}

async function send(path: string, init: RequestInit): Promise<Response> {
  let response: Response;
  try {
    response = await fetch(BASE + path, { signal: AbortSignal.timeout(PATIENCE_MS), ...init });
  } catch {
    throw new Away("The server does not answer.");
  }
  noteTime(response.headers.get("date"));
  if (response.ok) return response;
  // Nothing was refused: it is done once they are in again.
  if (response.status === UNKNOWN && !path.startsWith(SIGN_IN)) {
    toSignIn();
    throw new SignedOut("You are signed out.");
  }
  const problem = (await response.json().catch(() => null)) as ProblemShape | null;
  if (response.status === 503 || problem?.type === TOO_MUCH)
    throw new Away(
      problem?.detail ?? "The server's database is away.",
      problem?.type === NOT_STORED ? problem.detail : null,
    );
  if (response.status >= 500) throw new Failed(problem?.detail ?? "The server failed.");
  throw new Refused(
    problem ?? {
      type: "about:blank",
      title: response.statusText,
      status: response.status,
      detail: response.statusText,
    },
  );
}

/** Whether the server and its database answer. */
export const isWell = (): Promise<boolean> =>
  send("/health", {}).then(
    () => true,
    () => false,
  );

export async function get<T>(path: string): Promise<T> {
  return (await (await send(path, {})).json()) as T;
}

export const getText = async (path: string): Promise<string> => (await send(path, {})).text();

export async function write<T>(method: "POST" | "PUT" | "PATCH" | "DELETE", path: string, body?: unknown): Promise<T> {
  const text = body === undefined ? undefined : JSON.stringify(body);
  // What is on its way arrives although the window is closed; browsers allow that for small requests only.
  const keepalive = (text?.length ?? 0) < KEPT_ALIVE_BYTES;
  const init =
    text === undefined
      ? { method, keepalive }
      : { method, keepalive, body: text, headers: { "content-type": "application/json" } };
  const response = await send(path, init);
  return (response.status === 204 ? undefined : await response.json()) as T;
}

export async function getIndex(query: Record<string, string>): Promise<Index> {
  const response = await send(`/index?${new URLSearchParams(query)}`, {});
  const unpacked = response.body!.pipeThrough(new DecompressionStream("gzip"));
  return decodeIndex(await new Response(unpacked).arrayBuffer());
}

/** Ids of the messages that hold a folded needle in their own words. */
export async function getWords(needle: string): Promise<ReadonlySet<number>> {
  const response = await send(`/words?${new URLSearchParams({ needle })}`, {});
  return new Set(new Float64Array(await response.arrayBuffer()));
}

/** When open tasks are due, by the messages they were made from; milliseconds since 1970, NaN for no date. */
export async function getOpenTasks(): Promise<ReadonlyMap<number, readonly number[]>> {
  const response = await send("/tasks/open", {});
  const pairs = new Float64Array(await response.arrayBuffer());
  const out = new Map<number, number[]>();
  for (let i = 0; i < pairs.length; i += 2) out.set(pairs[i]!, [...(out.get(pairs[i]!) ?? []), pairs[i + 1]!]);
  return out;
}

/** Sends a file as it is, telling how much has gone out. @param to where its mail goes, and whether rules look at it */
export function upload(
  file: File,
  to: { readonly folder: string; readonly rules: boolean },
  progress: (share: number) => void,
): Promise<number> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest();
    request.open(
      "POST",
      `${BASE}/import?${new URLSearchParams({ folder: to.folder, rules: String(to.rules), name: file.name })}`,
    );
    request.upload.onprogress = (event) => progress(event.total > 0 ? event.loaded / event.total : 0);
    request.onerror = () =>
      reject(new Away("The file could not be sent: the server does not answer. Choose it again."));
    request.onload = () => {
      const answer = JSON.parse(request.responseText || "{}") as { job?: number } & Partial<ProblemShape>;
      if (answer.job) resolve(answer.job);
      else if (request.status === UNKNOWN) toSignIn();
      else reject(new Away(answer.detail ?? "The file could not be sent."));
    };
    request.send(file);
  });
}

/** Puts a file to a draft. */
export async function uploadDraftFile(draft: number, file: File): Promise<DraftFile> {
  const query = new URLSearchParams({ name: file.name });
  const init = {
    method: "POST",
    body: file,
    headers: { "content-type": file.type || "application/octet-stream" },
    signal: AbortSignal.timeout(FILE_PATIENCE_MS),
  };
  return (await (await send(`/drafts/${draft}/files?${query}`, init)).json()) as DraftFile;
}
/** Takes a file of cards in. */
export async function uploadCards(file: File): Promise<CardsAnswer> {
  const init = { method: "POST", body: file, headers: { "content-type": "text/vcard" } };
  const patience = AbortSignal.timeout(FILE_PATIENCE_MS);
  return (await (await send("/contacts/cards", { ...init, signal: patience })).json()) as CardsAnswer;
}
export const tasksAddress = `${BASE}/tasks/ics`;
export const calendarAddress = (id: number): string => `${BASE}/calendars/${id}/ics`;
/** Takes a calendar file in. */
export async function uploadCalendar(id: number, file: File): Promise<IcsTaken> {
  const init = { method: "POST", headers: { "content-type": "text/calendar" }, body: file };
  const patience = AbortSignal.timeout(FILE_PATIENCE_MS);
  return (await (await send(`/calendars/${id}/ics`, { ...init, signal: patience })).json()) as IcsTaken;
}

export const cardsAddress = (version: 3 | 4): string => `${BASE}/contacts/cards?version=${version}`;
export const draftFileAddress = (draft: number, file: number): string => `${BASE}/drafts/${draft}/files/${file}`;

/** A file of many messages takes its time. */
const FILE_PATIENCE_MS = 900_000;

/** Takes a file out of a draft. @returns what was taken out */
export async function takeOutDraftFile(draft: number, { id, name, type }: DraftFile): Promise<File> {
  const init = { method: "DELETE", signal: AbortSignal.timeout(FILE_PATIENCE_MS) };
  return new File([await (await send(`/drafts/${draft}/files/${id}`, init)).blob()], name, { type });
}

/** Asks for a file with a form. */
export const fetchFile = async (address: string, body: URLSearchParams): Promise<Blob> =>
  (
    await send(address.slice(BASE.length), { method: "POST", body, signal: AbortSignal.timeout(FILE_PATIENCE_MS) })
  ).blob();

export const paceAddress = (query: string): string => `${BASE}/pace/csv?${query}`;
export const exportAddress = (query: Record<string, string>): string => `${BASE}/export?${new URLSearchParams(query)}`;
export const packAddress = (query: Record<string, string>): string => `${BASE}/packs?${new URLSearchParams(query)}`;
export const rawAddress = (id: number): string => `${BASE}/messages/${id}/raw`;
export const fileAddress = (id: number, index: number): string => `${BASE}/messages/${id}/files/${index}`;
export const eventsAddress = (after: number): string => `${BASE}/events?after=${after}`;
