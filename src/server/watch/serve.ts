import { createServer, type Server } from "node:http";
import { log } from "./log";
import { METRICS_TYPE, readMetrics } from "./metrics";

/** Why a process should not be given work now; null where it should. */
export type Ready = () => Promise<string | null>;

const PATIENCE_MS = 5000;

/** A database that does not answer in time is none that one is ready with. */
const soon = (ready: Ready): Promise<string | null> =>
  Promise.race([
    ready().catch(() => "the database does not answer"),
    new Promise<string>((done) => setTimeout(() => done("the database does not answer"), PATIENCE_MS).unref()),
  ]);

/**
 * `/metrics` and `/ready` for whoever runs the app, on a port of their own that no proxy leads to.
 * @param host where it listens: this machine alone, unless the figures are fetched from another one
 */
export function serveWatch(port: number, host: string, ready: Ready): Server {
  const server = createServer((request, response) => {
    const answer = (status: number, text: string, type = "text/plain; charset=utf-8") => {
      response.writeHead(status, { "content-type": type, "cache-control": "no-store" });
      response.end(text);
    };
    if (request.method !== "GET") return answer(405, "GET only\n");
    if (request.url === "/metrics")
      return void readMetrics().then(
        (text) => answer(200, text, METRICS_TYPE),
        (error: unknown) => {
          log.fault("figures could not be read", error);
          answer(500, "the figures could not be read\n");
        },
      );
    if (request.url === "/ready")
      return void soon(ready).then((why) => answer(why === null ? 200 : 503, `${why ?? "ready"}\n`));
    answer(404, "/metrics or /ready\n");
  });
  server.on("error", (error) => log.fault("figures are not served", error, {}, { port }));
  // What it answers keeps no process from ending.
  return server.listen(port, host).unref();
}

/** As the environment says: `METRICS_PORT`, `METRICS_HOST`. Without a port nothing is served. */
export function serveWatchAsAsked(ready: Ready): Server | null {
  const { METRICS_PORT, METRICS_HOST = "127.0.0.1" } = process.env;
  return METRICS_PORT ? serveWatch(Number(METRICS_PORT), METRICS_HOST, ready) : null;
}
