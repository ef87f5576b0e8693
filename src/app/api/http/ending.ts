import { subscribe } from "node:diagnostics_channel";
import { setMaxListeners } from "node:events";
import type { Server } from "node:http";
import { processDatabase, readiness } from "@/server/act";

/**
 * A server that is told to end waits for what is under way, and for connections that browsers keep open. So streams
 * end by themselves then, and whatever is answered after that closes its connection: windows come to the next server.
 * Kept on globalThis, since routes may be bundled apart from each other.
 */
const slot = globalThis as typeof globalThis & { tachyneEnding?: AbortSignal };

function signalOf(): AbortSignal {
  const ending = new AbortController();
  for (const signal of ["SIGTERM", "SIGINT"] as const) process.once(signal, () => ending.abort());
  // One listener for each open window.
  setMaxListeners(0, ending.signal);
  return ending.signal;
}

/** Aborted once this process was told to end. */
export const ending = (): AbortSignal => (slot.tachyneEnding ??= signalOf());

/** So often, once it was told to end, connections are let go of on which nothing is under way any more. */
const LOOK_EVERY_MS = 100;

/**
 * An answer that goes out just as the process is told to end leaves its connection open: it was promised before that it
 * stays, and whoever holds it may do so for minutes. To be called once.
 */
export function letGoWhenEnding(): void {
  const servers = new Set<Server>();
  // How a server is met that somebody else has made (Node's own channel).
  subscribe("http.server.request.start", (message) => servers.add((message as { server: Server }).server));
  ending().addEventListener("abort", () => {
    const look = () => servers.forEach((server) => server.closeIdleConnections());
    setInterval(look, LOOK_EVERY_MS).unref();
  });
}

/** Why this process should not be given requests now; null where it should. */
export const readyOrWhy = async (): Promise<string | null> =>
  ending().aborted ? "it was told to end" : readiness(processDatabase());

/** The connection of an answer ends with it where the process is to. */
export function closesWhenEnding(answer: Response): Response {
  if (ending().aborted) answer.headers.set("connection", "close");
  return answer;
}
