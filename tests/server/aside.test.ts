import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { randomUUID } from "node:crypto";
import { runId } from "@/core/id";
import {
  blockSender,
  blockSenders,
  importFile,
  listBlocked,
  listSenders,
  readEntry,
  readLedger,
  runMacro,
  standAside,
  takeBack,
} from "@/server/act";
import { Readable } from "node:stream";
import { doJob, ParsePool } from "@/server/jobs";
import { freshDatabase, WORKER, type Fresh } from "./database";
import { daysAgo, serviceOf } from "./service";

/** Mail that stands aside, and mail of those who are blocked: where it comes in. */

let fresh: Fresh;
let arrives: Awaited<ReturnType<typeof serviceOf>>["arrives"];
beforeAll(async () => {
  fresh = await freshDatabase();
  ({ arrives } = await serviceOf(fresh));
});
afterAll(() => fresh.drop());

const news = (list: string, days = 0) =>
  arrives(`News <news@${list}>`, "News", `List-Id: <all.${list}>\r\n`, "News.\r\n", daysAgo(days));
const place = async (id: number) => {
  const [row] = await fresh.db.sql<{ role: string | null; path: string }[]>`
    select f.role, f.path from message_state s join folder f on f.person = s.person and f.id = s.folder
    where s.person = ${fresh.context.person} and s.message = ${id}`;
  return row!.role ?? row!.path;
};
const run = async (steps: object[], ids: readonly number[]) =>
  runMacro(fresh.context, { id: randomUUID(), macro: { name: "x", steps }, target: { ids } } as never);
const undo = (id: string) => takeBack(fresh.context, "undo", runId(id));
const newest = async () => (await readLedger(fresh.context, { limit: 1 }))[0]!;
const find = async (source: string) => (await listSenders(fresh.context)).find((one) => one.source === source);

describe("aside", () => {
  test("comes in what a step put there, said by the rule in the ledger, from where it is taken back", async () => {
    const first = await news("Quiet.example");
    expect(await place(first)).toBe("inbox");
    const asked = await run([{ do: "aside" }], [first]);
    expect(await place(first)).toBe("aside");
    const next = await news("quiet.example");
    expect(await place(next)).toBe("aside");
    const entry = await newest();
    expect(entry).toMatchObject({ actor: "rule", cause: "list all.quiet.example" });
    expect(entry.macro.name).toBe("Aside: all.quiet.example");
    const detail = await readEntry(fresh.context, runId(entry.id));
    expect(detail.changes.map(({ message }) => message)).toEqual([next]);
    // Others' mail is not touched by it.
    expect(await place(await news("loud.example"))).toBe("inbox");
    await undo(entry.id);
    expect(await place(next)).toBe("inbox");
    // The step taken back unlearns it.
    await undo(asked.entry!.id);
    expect(await place(first)).toBe("inbox");
    expect(await place(await news("quiet.example"))).toBe("inbox");
    expect(await fresh.db.sql`select from aside`).toHaveLength(0);
  });

  test("is told by a name in whatever letters", async () => {
    const odd = () => arrives("N <n@odd.example>", "Odd", "List-Id: <=?utf-8?Q?=C4=B0NFO=2E=C3=89T=C3=89?=>\r\n");
    const first = await odd();
    await run([{ do: "aside" }], [first]);
    expect(await place(first)).toBe("aside");
    expect(await place(await odd())).toBe("aside");
  });

  test("one step ends it: back in the inbox, and never offered again", async () => {
    const ids: number[] = [];
    for (let i = 0; i < 8; i++) ids.push(await news("ended.example", 4 + i));
    const source = "list all.ended.example";
    expect((await find(source))!.offer).toBe("none of 8 read");
    await run([{ do: "aside" }], [ids[0]!]);
    expect(await find(source)).toMatchObject({ aside: "aside", offer: null });
    await run([{ do: "not aside" }], [ids[0]!]);
    expect(await place(ids[0]!)).toBe("inbox");
    expect(await find(source)).toMatchObject({ aside: "declined", offer: null });
    expect(await place(await news("ended.example"))).toBe("inbox");
    // Wanted again, it is aside again.
    await run([{ do: "aside" }], [ids[1]!]);
    expect(await place(await news("ended.example"))).toBe("aside");
  });

  test("by hand, all of a source in the inbox goes with it, as one entry", async () => {
    const ids = [await news("hand.example"), await news("hand.example"), await news("hand.example", 40)];
    await run([{ do: "trash" }], [ids[1]!]);
    await standAside(fresh.context, { sources: ["LIST all.hand.example"], aside: true });
    expect(await Promise.all(ids.map(place))).toEqual(["aside", "trash", "aside"]);
    const entry = await newest();
    await standAside(fresh.context, { sources: ["list all.hand.example"], aside: true });
    expect((await newest()).id).toBe(entry.id);
    await undo(entry.id);
    expect(await Promise.all(ids.map(place))).toEqual(["inbox", "trash", "inbox"]);
    expect((await find("list all.hand.example"))!.aside).toBeNull();
    await standAside(fresh.context, { sources: ["list all.hand.example"], aside: true });
    await standAside(fresh.context, { sources: ["list all.hand.example"], aside: false });
    expect(await Promise.all(ids.map(place))).toEqual(["inbox", "trash", "inbox"]);
    await expect(standAside(fresh.context, { sources: ["hand.example"], aside: true })).rejects.toThrow(/neither/);
  });

  test("never somebody one has written to, nor one's own mail", async () => {
    const met = await arrives("Ida <ida@met.example>", "Hello");
    await run([{ do: "aside" }], [met]);
    expect(await place(await arrives("Ida <IDA@met.example>", "Again"))).toBe("aside");
    await fresh.db.sql`
      insert into written_to (person, address, name, times, last)
      values (${fresh.context.person}, 'ida@met.example', 'Ida', 1, now())`;
    expect(await place(await arrives("Ida <ida@met.example>", "And again"))).toBe("inbox");
    for (let i = 0; i < 9; i++) await arrives("Ida <ida@met.example>", "Unread", "", "x\r\n", daysAgo(5 + i));
    await fresh.db.sql`delete from aside`;
    expect((await find("sender ida@met.example"))!.offer).toBeNull();
    await fresh.db.sql`delete from written_to where address = 'ida@met.example'`;
    expect((await find("sender ida@met.example"))!.offer).not.toBeNull();
    const own = await arrives("Me <bookings@larchhuts.example>", "To myself");
    const answer = await run([{ do: "aside" }], [own]);
    expect(answer.skipped.map(({ reason }) => reason)).toEqual(["own-mail"]);
    expect(await place(own)).toBe("inbox");
  });

  test("what an import brings into the inbox stands aside too; into another folder it stays there", async () => {
    await standAside(fresh.context, { sources: ["list all.import.example"], aside: true });
    const pool = new ParsePool(WORKER, 1);
    for (const [n, folder] of [
      [1, "Inbox"],
      [2, "Elsewhere"],
    ] as const) {
      const mbox = `From x Fri Nov 27 00:00:00 2026\nFrom: N <news@import.example>\nSubject: s${n}\nMessage-ID: <i${n}@import.example>\nList-Id: <all.import.example>\n\nx\n`;
      const job = await importFile(fresh.context, "x", folder, Readable.from([Buffer.from(mbox)]));
      const [row] = await fresh.db.sql`select * from job where id = ${job}`;
      await doJob(fresh.db, row as never, pool);
    }
    await pool.close();
    const ids = await fresh.db.sql<{ id: number }[]>`
      select id from message where message_id like '<i_@import.example>' order by message_id`;
    expect(await Promise.all(ids.map(({ id }) => place(id)))).toEqual(["aside", "Elsewhere"]);
  });
});

describe("blocking", () => {
  test("a domain blocks everybody there and below it, and nobody beside it", async () => {
    await blockSender(fresh.context, { address: "@Spam.example" });
    const from = async (address: string) => place(await arrives(`x <${address}>`, "Offer"));
    expect(await from("a@spam.example")).toBe("junk");
    expect(await from("b@SPAM.example")).toBe("junk");
    expect(await from("c@mail.spam.example")).toBe("junk");
    expect(await from("d@notspam.example")).toBe("inbox");
    expect(await from("spam.example@other.example")).toBe("inbox");
    const far = await arrives("x <y@far.example>", "Hm");
    const { entry } = await run([{ do: "block sender", domain: true }], [far]);
    expect((await listBlocked(fresh.context)).map(({ address }) => address)).toContain("@far.example");
    await undo(entry!.id);
    expect(await from("z@far.example")).toBe("inbox");
  });

  test("several at once are one entry; those that were blocked stay so when it is taken back", async () => {
    await blockSender(fresh.context, { address: "old@pest.example" });
    await blockSenders(fresh.context, { addresses: ["Old@pest.example", "new@pest.example", "two@pest.example"] });
    const pests = async () =>
      (await listBlocked(fresh.context)).map(({ address }) => address).filter((one) => one.endsWith("@pest.example"));
    expect(await pests()).toEqual(["new@pest.example", "old@pest.example", "two@pest.example"]);
    const entry = await newest();
    expect(entry.macro.name).toBe("Block 2 senders");
    await undo(entry.id);
    expect(await pests()).toEqual(["old@pest.example"]);
  });

  test("an address in letters that have no small ones is blocked and let go like any", async () => {
    const id = await arrives("x <\u{1D400}b@odd.example>", "Odd");
    const answer = await run([{ do: "block sender" }, { do: "aside" }], [id]);
    await undo(answer.entry!.id);
    expect((await listBlocked(fresh.context)).some(({ address }) => address.endsWith("@odd.example"))).toBe(false);
  });
});
