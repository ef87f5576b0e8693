import { randomBytes } from "node:crypto";
import { afterAll, afterEach, beforeAll, beforeEach, describe, expect, test } from "vitest";
import { changeAccount, createAccount, deleteAccount, listAccounts, testAccount, tryRefused } from "@/server/act";
import { letter, PASSWORD, startMailService, type MailService } from "../fixtures/mail-service";
import { Sides } from "./sides";

/** Servers that can less than they should, or break off: the table of faults. */

const USERS = Array.from({ length: 20 }, (_, n) => `u${n}`);
let next = 0;
let service: MailService;
let sides: Sides;

const using = (capability?: string) => {
  beforeAll(async () => {
    service = await startMailService(USERS, capability);
  });
  afterAll(() => service.end());
  beforeEach(async () => {
    sides = await Sides.open(service, USERS[next++ % USERS.length]!);
  });
  afterEach(() => sides.end());
};
const paths = async () => (await sides.here()).map(({ messageId, path }) => `${messageId} ${path}`);
const archiveAll = async () =>
  sides.run(
    (await sides.here()).map(({ id }) => id),
    { do: "archive" },
  );
const five = (path: string) => [1, 2, 3, 4, 5].map((n) => `<m${n}@post.example> ${path}`);
const fiveThere = five("").map((line) => line.trim());

describe("a server as it should be, with a line that is not", () => {
  using();

  test.each([
    ["while mailboxes are listed", /LIST \(/],
    ["in the middle of headers", /RFC822\.SIZE/],
    ["in the middle of a source", /BODY\[\]/],
  ])("cut %s, nothing is lost or doubled", async (_, cutAt) => {
    await sides.fill(5);
    await sides.connect();
    service.wire.cutAt = cutAt;
    expect(await sides.see()).toBeNull();
    expect((await listAccounts(sides.fresh.context))[0]!.trouble).not.toBeNull();
    await sides.settle();
    expect(await paths()).toEqual(five("Inbox"));
    expect((await listAccounts(sides.fresh.context))[0]!.trouble).toBeNull();
  });

  test.each([
    ["a move", /MOVE/],
    ["a change of flags", /STORE/],
  ])("cut after %s was asked for and before its answer, it is done once", async (_, cutAfter) => {
    await sides.fill(5);
    await sides.connect();
    await sides.see();
    await sides.run(
      (await sides.here()).map(({ id }) => id),
      { do: "archive" },
      { do: "flag" },
    );
    service.wire.cutAfter = cutAfter;
    expect(await sides.see()).toBeNull();
    await sides.another();
    await sides.settle();
    expect(await paths()).toEqual(five("Archive"));
    expect(await sides.there("Archive")).toEqual(fiveThere.map((line) => `${line} \\Flagged`));
    expect(await sides.there("INBOX")).toEqual([]);
    expect((await sides.here()).every(({ bits }) => bits === 8)).toBe(true);
  });

  test("a report that is refused is said, and is no trouble of the account", async () => {
    await sides.fill(2);
    await sides.connect();
    await sides.see();
    await sides.fresh.db.sql`update person set settings = settings || '{"holdSeconds": 0}'`;
    service.wire.refuse = (command) => (/\$Junk/.test(command) ? "NO it keeps no such word" : null);
    const [one] = await sides.here();
    await sides.run([one!.id], { do: "report", as: "junk" }, { do: "flag" });
    await sides.see();
    await sides.see();
    const [report] = await sides.fresh.db.sql<{ state: string }[]>`select state from report`;
    expect(report!.state).toBe("refused");
    expect((await listAccounts(sides.fresh.context))[0]!.trouble).toBeNull();
    expect((await sides.there("INBOX"))[0]).toContain("\\Flagged");
  });

  test("one message that is refused keeps no other; it is said, and tried again when asked for", async () => {
    await sides.fill(5);
    await sides.connect();
    await sides.see();
    const refused = (await sides.here())[2]!;
    const names = (set: string) =>
      set.split(",").some((part) => {
        const [low, high = low] = part.split(":").map(Number);
        return low! <= refused.uid! && refused.uid! <= high!;
      });
    service.wire.refuse = (command) => {
      const set = /^UID MOVE ([\d:,]+)/.exec(command)?.[1];
      return set !== undefined && names(set) ? "NO [LIMIT] this one stays" : null;
    };
    await archiveAll();
    await sides.settle();
    expect(await sides.there("INBOX")).toEqual(["<m3@post.example>"]);
    expect(await sides.there("Archive")).toHaveLength(4);
    const [account] = await listAccounts(sides.fresh.context);
    expect(account).toMatchObject({ refused: 1, waiting: 0, trouble: null });
    expect(await paths()).toEqual(five("Archive"));
    service.wire.refuse = () => null;
    await tryRefused(sides.fresh.context, account!.id);
    await sides.settle();
    expect(await sides.there("Archive")).toHaveLength(5);
    expect((await listAccounts(sides.fresh.context))[0]).toMatchObject({ refused: 0, waiting: 0 });
  });

  test("a mailbox that keeps no keywords keeps the rest, and labels stay here", async () => {
    await sides.fill(2);
    await sides.connect();
    service.wire.change = (said) => said.replace(/( \\\*)(?=\)\])/g, "");
    await sides.see();
    await sides.run([(await sides.byId(1)).id], { do: "label", add: "Invoice" }, { do: "read" });
    await sides.settle();
    expect(await sides.there("INBOX")).toEqual(["<m1@post.example> \\Seen", "<m2@post.example>"]);
    expect((await sides.byId(1)).labels).toEqual(["Invoice"]);
    expect((await listAccounts(sides.fresh.context))[0]).toMatchObject({ waiting: 0, trouble: null });
  });

  test("a count that is not true costs another look, and nothing else", async () => {
    await sides.fill(5);
    await sides.connect();
    await sides.see();
    service.wire.change = (said) => said.replace(/MESSAGES \d+/g, "MESSAGES 1");
    await sides.bare.append("INBOX", letter(6));
    await sides.settle();
    expect(await paths()).toEqual([...five("Inbox"), "<m6@post.example> Inbox"]);
  });

  test("a server that lists nothing for once takes nothing away", async () => {
    await sides.fill(2);
    await sides.connect();
    await sides.see();
    service.wire.change = (said) => said.replace(/^\* LIST .*\r\n/gm, "");
    for (let n = 0; n < 3; n++) expect(await sides.see()).toBeNull();
    expect((await listAccounts(sides.fresh.context))[0]!.trouble).toContain("lists no inbox");
    service.wire.change = (said) => said;
    await sides.settle();
    expect((await sides.here()).map(({ path, uid }) => [path, uid])).toEqual([
      ["Inbox", 1],
      ["Inbox", 2],
    ]);
  });

  test.each([
    ["opened", /^SELECT "?Trash/],
    ["looked into", /^STATUS "?Trash/],
  ])("a mailbox that is listed and cannot be %s keeps no other from coming in", async (_, refused) => {
    await sides.fill(2);
    await sides.fill(1, "Trash", 3);
    service.wire.refuse = (command) => (refused.test(command) ? "NO [NOPERM] not for you" : null);
    if (refused.test("STATUS Trash"))
      service.wire.change = (said) => said.replace(/\* STATUS "?Trash"? \([^)]*\)\r\n/, "");
    await sides.connect();
    await sides.settle();
    expect(await paths()).toEqual(["<m1@post.example> Inbox", "<m2@post.example> Inbox"]);
    expect((await listAccounts(sides.fresh.context))[0]!.trouble).toBeNull();
    service.wire.refuse = () => null;
    service.wire.change = (said) => said;
    await sides.settle();
    expect(await paths()).toHaveLength(3);
  });

  test("an account given up in the middle of its first round leaves nothing behind, and can be connected anew", async () => {
    await sides.fill(120);
    const { id } = await sides.connect();
    let asked = 0;
    let given: Promise<void> | null = null;
    service.wire.refuse = (command) => {
      if (/HEADER\.FIELDS \(date/.test(command) && ++asked === 2)
        given = deleteAccount(sides.fresh.context, id, "keep");
      return null;
    };
    expect(await sides.see()).toBeNull();
    await given;
    service.wire.refuse = () => null;
    const rows = await sides.fresh.db.sql`select from placement`;
    expect(rows).toHaveLength(0);
    await sides.connect();
    await sides.settle();
    expect(await sides.here()).toHaveLength(120);
  });

  test("a first round that is paused stops between two pieces, and goes on without doubles", async () => {
    await sides.fill(120);
    const { id } = await sides.connect();
    let asked = 0;
    service.wire.refuse = (command) => {
      // Headers are asked for a second time: the first piece is being written then.
      if (/HEADER\.FIELDS \(date/.test(command) && ++asked === 2)
        void sides.fresh.db.sql`update account set is_paused = true`.execute();
      return null;
    };
    expect(await sides.see()).toBeNull();
    const here = (await sides.here()).length;
    expect(here).toBeGreaterThan(0);
    expect(here).toBeLessThan(120);
    expect((await listAccounts(sides.fresh.context))[0]).toMatchObject({ isPaused: true, trouble: null, doing: null });
    await changeAccount(sides.fresh.context, id, { isPaused: false });
    await sides.settle();
    expect(await sides.here()).toHaveLength(120);
    expect(new Set((await sides.here()).map(({ messageId }) => messageId)).size).toBe(120);
  });

  test("one that counts differently in two answers is asked once more, and not without end", async () => {
    await sides.fill(2);
    service.wire.change = (said) => said.replace(/\[UIDNEXT \d+\]/, "[UIDNEXT 4711]");
    await sides.connect();
    await sides.see();
    service.wire.commands.length = 0;
    let turns = 0;
    await sides.live(() => Promise.resolve(++turns > 60));
    expect(service.wire.commands.filter((command) => command.startsWith("LIST")).length).toBeLessThanOrEqual(2);
    expect(await paths()).toHaveLength(2);
  });

  test("from a day on only: older mail is left there, until further back is wanted", async () => {
    await sides.bare.run(`APPEND INBOX "01-Jan-2020 10:00:00 +0000" {${letter(1).length}+}\r\n${letter(1)}`);
    await sides.fill(1, "INBOX", 2);
    const { id } = await sides.connect({ since: "2026-01-01T00:00:00.000Z" });
    await sides.settle();
    expect(await paths()).toEqual(["<m2@post.example> Inbox"]);
    await changeAccount(sides.fresh.context, id, { since: null });
    await sides.settle();
    expect(await paths()).toHaveLength(2);
  });

  test("what does not work is said by side, and nothing is stored; a password is nowhere to be read", async () => {
    const servers = service.servers(sides.user);
    const wrong = await testAccount(sides.fresh.context, { servers, secret: "wrong" });
    expect(wrong.imap).toMatchObject({
      ok: false,
      said: expect.stringMatching(/^The IMAP server 127.*does not take the name and password/),
    });
    expect(wrong.smtp).toMatchObject({
      ok: false,
      said: expect.stringMatching(
        /^The SMTP server 127.*does not take the name and password.*that is not the password/,
      ),
    });
    const nobody = { ...servers, smtp: { ...servers.smtp, port: 1 } };
    const body = {
      name: "",
      address: "desk@huts.example",
      servers: nobody,
      secret: PASSWORD,
      since: null,
      without: [],
    };
    await expect(createAccount(sides.fresh.context, body)).rejects.toThrow(
      /SMTP server 127.*port 1: nothing listens there.*Nothing was stored/,
    );
    expect(await listAccounts(sides.fresh.context)).toEqual([]);
    const tls = { ...servers, imap: { ...servers.imap, security: "tls" as const } };
    expect((await testAccount(sides.fresh.context, { servers: tls, secret: PASSWORD })).imap.said).toMatch(
      /does not speak TLS from the start/,
    );
    const starttls = { ...servers, imap: { ...servers.imap, security: "starttls" as const } };
    expect((await testAccount(sides.fresh.context, { servers: starttls, secret: PASSWORD })).imap.said).toMatch(
      /offers no STARTTLS/,
    );
    const open = { ...servers, smtp: { ...servers.smtp, host: "smtp.post.example" } };
    await expect(testAccount(sides.fresh.context, { servers: open, secret: PASSWORD })).rejects.toThrow(
      /Anybody on the way to smtp.post.example could read/,
    );
    const account = await sides.connect();
    expect(JSON.stringify(account)).not.toContain(PASSWORD);
    const [row] = await sides.fresh.db.sql<
      { all: string }[]
    >`select a::text || encode(secret, 'escape') as all from account a`;
    expect(row!.all).not.toContain(PASSWORD);
    await expect(sides.connect()).rejects.toThrow(/connected already/);
    // Under another key nothing opens it: that is said, and a password typed anew mends it.
    process.env.TACHYNE_KEY = randomBytes(32).toString("base64");
    await expect(changeAccount(sides.fresh.context, account.id, { servers })).rejects.toThrow(/another key/);
    expect(await sides.see()).toBeNull();
    expect((await listAccounts(sides.fresh.context))[0]!.trouble).toMatch(/Type it anew/);
    await changeAccount(sides.fresh.context, account.id, { secret: PASSWORD });
    expect(await sides.see()).toBe(0);
  });
});

describe.each([
  ["no MOVE and no UIDPLUS", "IMAP4rev1 LITERAL+ IDLE SPECIAL-USE NAMESPACE CONDSTORE"],
  ["no counted changes (CONDSTORE)", "IMAP4rev1 LITERAL+ IDLE SPECIAL-USE NAMESPACE UIDPLUS MOVE"],
  ["nothing but the bare protocol", "IMAP4rev1 LITERAL+"],
])("a server with %s", (_, capability) => {
  using(capability);

  test("moves, flags and deletes both ways all the same", async () => {
    await sides.fill(5);
    await sides.connect();
    await sides.settle();
    const before = await sides.here();
    await archiveAll();
    await sides.settle();
    expect(await paths()).toEqual(five("Archive"));
    expect(await sides.there("Archive")).toEqual(fiveThere);
    expect(await sides.there("INBOX")).toEqual([]);
    expect((await sides.here()).map(({ id }) => id)).toEqual(before.map(({ id }) => id));
    await sides.bare.select("Archive");
    await sides.bare.run("STORE 2 +FLAGS (\\Seen)");
    await sides.bare.run("STORE 4 +FLAGS (\\Deleted)");
    await sides.bare.run("EXPUNGE");
    await sides.settle();
    expect((await sides.here()).map(({ path, bits }) => [path, bits])).toEqual([
      ["Archive", 0],
      ["Archive", 1],
      ["Archive", 0],
      ["Trash", 0],
      ["Archive", 0],
    ]);
    await sides.run([(await sides.byId(1)).id], { do: "delete for good" });
    await sides.settle();
    expect(await sides.there("Archive")).toEqual([
      "<m2@post.example> \\Seen",
      "<m3@post.example>",
      "<m5@post.example>",
    ]);
    expect(await sides.here()).toHaveLength(4);
  });
});
