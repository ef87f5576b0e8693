import { once } from "node:events";
import { setTimeout as pause } from "node:timers/promises";
import postgres from "postgres";
import { afterAll, afterEach, beforeAll, expect, test } from "vitest";
import { fillWithMessages, freshDatabase, type Fresh } from "./database";
import { startWeb, type WebApp } from "./web";

/** A web server that is told to end: what is under way is done, and open windows do not hold it up. */

const COUNT = 50;
let fresh: Fresh;
beforeAll(async () => {
  fresh = await freshDatabase();
  await fillWithMessages(fresh, COUNT);
});
afterAll(() => fresh.drop());

let app: WebApp;
afterEach(() => app.process.kill("SIGKILL"));

test.each(["SIGTERM", "SIGINT"] as const)(
  "%s ends streams, answers what was asked, and ends the process",
  async (signal) => {
    app = await startWeb(fresh.url);
    const ended = once(app.process, "exit");
    const streams = await Promise.all(
      [1, 2, 3].map(() => fetch(`${app.base}/events?after=0`, { headers: app.headers as Record<string, string> })),
    );
    expect(streams.map(({ status }) => status)).toEqual([200, 200, 200]);
    const read = streams.map(async ({ body }) => {
      let text = "";
      for await (const piece of body!.pipeThrough(new TextDecoderStream())) text += piece;
      return text;
    });
    // A run that stands in the middle, until the lock is gone.
    const holder = postgres(fresh.url, { max: 1, onnotice: () => {} });
    let run: Promise<Response> | undefined;
    await holder.begin(async (tx) => {
      await tx`lock table message_state in share mode`;
      run = fetch(`${app.base}/runs`, {
        method: "POST",
        headers: { ...app.headers, "content-type": "application/json" },
        body: JSON.stringify({
          id: crypto.randomUUID(),
          macro: { name: "x", steps: [{ do: "toggle read" }] },
          target: { narrow: "folder=Inbox", order: "newest" },
        }),
      });
      const isWaiting = async () =>
        (
          await fresh.db.sql`
            select 1 from pg_stat_activity where datname = current_database() and wait_event_type = 'Lock'`
        ).length > 0;
      while (!(await isWaiting())) await pause(20);
      app.process.kill(signal);
      for (const text of await Promise.all(read)) expect(text).toContain(": hello");
      expect(app.process.exitCode).toBeNull();
    });
    const answer = await run!;
    expect(answer.status).toBe(200);
    expect(((await answer.json()) as { changed: number }).changed).toBe(COUNT);
    // By itself, not by the signal.
    expect((await ended)[1]).toBeNull();
    await holder.end();
  },
);
