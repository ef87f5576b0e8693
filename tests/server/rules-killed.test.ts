import { afterAll, beforeAll, expect, test } from "vitest";
import { createHours, createMacro, createRule } from "@/server/act";
import { takeMail, ParsePool } from "@/server/jobs";
import { freshDatabase, WORKER, type Fresh } from "./database";
import { killedProgram, type Killed } from "./killed";
import { serviceOf } from "./service";

/** kill -9 while mail is taken in that rules are for. */

let fresh: Fresh;
let program: Killed;
beforeAll(async () => {
  fresh = await freshDatabase();
  await serviceOf(fresh);
  program = await killedProgram("take", fresh.url);
  const make = async (name: string, steps: object[]) =>
    (await createMacro(fresh.context, { name, colour: "spruce", steps, settings: {} } as never)).id;
  const on = { on: true, stop: false };
  await createRule(fresh.context, {
    narrow: "from~post",
    macro: await make("To label", [{ do: "label", add: "Invoice" }]),
    ...on,
  });
  const file = [{ do: "move", to: "Weather" }, { do: "make task" }, { do: "add sender to rule", rule: "Seen" }];
  await createRule(fresh.context, { narrow: "subject~storm", macro: await make("To file", file), ...on });
  // The third day from now: what stays in the inbox waits until then.
  const day = (new Date().getUTCDay() + 2) % 7;
  await createHours(fresh.context, { narrow: "", through: null, on: true, week: [{ day, from: 0, to: 1440 }] });
});
afterAll(async () => {
  program.remove();
  await fresh.drop();
});

/** A program a step is dear: each starts a process and a thread that parses. */
const EVERY = 3;

let n = 0;
async function brings(): Promise<void> {
  for (const subject of ["Storm coming", "Beds"]) {
    const raw = `From: X <x${++n}@post.example>\r\nTo: bookings@larchhuts.example\r\nSubject: ${subject}\r\nDate: Thu, 26 Nov 2026 08:00:00 +0000\r\nMessage-ID: <k${n}@post.example>\r\n\r\nHello.\r\n`;
    await fresh.db.sql`insert into simulated_mail (person, account, raw)
      select ${fresh.context.person}, id, ${Buffer.from(raw)} from account where person = ${fresh.context.person}`;
  }
}

test(
  "all along it: each message comes in once, with all that rules do to it or not at all",
  { timeout: 480_000 },
  async () => {
    const { sql } = fresh.db;
    await brings();
    const { asked, killed } = await program.run(0);
    expect(killed).toBe(false);
    expect(asked).toBeGreaterThan(20);
    let kills = 0;
    // Every third step in each of three rounds: all of them, each once.
    for (let at = 1; at <= asked; at += EVERY) {
      await brings();
      if ((await program.run(at)).killed) kills++;
      const [half] = await sql<{ n: number }[]>`
        select count(*)::int as n from message m join message_state s on s.person = m.person and s.message = m.id
          join folder f on f.person = s.person and f.id = s.folder
        where cardinality(s.labels) <> 1 or (m.subject like 'Storm%') <> (f.path = 'Weather')
          or (m.subject like 'Storm%') <> (s.defer_until is null)`;
      expect(half!.n, `killed at ${at}`).toBe(0);
    }
    expect(kills).toBeGreaterThan(asked / EVERY / 2);
    await expect
      .poll(async () => {
        await takeMail(fresh.db, () => new ParsePool(WORKER, 1), new Date());
        const [row] = await sql<{ n: number }[]>`select count(*)::int as n from message`;
        return row!.n;
      })
      .toBe(n);
    const [ends] = await sql<{ tasks: number; listed: number; by: number; ids: number }[]>`
      select (select count(*)::int from task) as tasks, (select count(*)::int from listed) as listed,
        (select sum(messages)::int from ledger where actor = 'rule' and cause like 'rule %') as by,
        (select count(distinct message_id)::int from message) as ids`;
    // One rule is for all of them, the other for half.
    expect(ends).toEqual({ tasks: n / 2, listed: n / 2, by: n + n / 2, ids: n });
  },
);
