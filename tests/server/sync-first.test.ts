import { afterAll, afterEach, beforeAll, beforeEach, expect, test } from "vitest";
import { readMessage } from "@/server/act";
import { letter, startMailService, type MailService } from "../fixtures/mail-service";
import { Sides } from "./sides";

/** What an account's first time asks of its server, and in which order. */

const USERS = ["first", "second"];
let service: MailService;
let sides: Sides;
beforeAll(async () => {
  service = await startMailService(USERS);
});
afterAll(() => service.end());
beforeEach(async () => {
  sides = await Sides.open(service, USERS.shift()!);
});
afterEach(() => sides.end());

test("the inbox is here before other mailboxes are opened, and nothing new in any of them is one command's answer", async () => {
  for (let n = 0; n < 12; n++) await sides.bare.run(`CREATE Hut${n}`);
  await sides.fill(3);
  await sides.fill(1, "Hut3", 4);
  await sides.connect();
  let before: number | null = null;
  let counted: Promise<void> | null = null;
  service.wire.refuse = (command) => {
    if (/^SELECT "?Hut/.test(command)) counted ??= sides.here().then((here) => void (before = here.length));
    return null;
  };
  expect(await sides.see()).toBe(4);
  await counted;
  expect(before).toBe(3);
  await sides.settle();
  service.wire.commands.length = 0;
  expect(await sides.see()).toBe(0);
  const asked = service.wire.commands.map((command) => command.split(" ")[0]).filter((name) => name !== "IDLE");
  expect(asked.filter((name) => name === "LIST")).toHaveLength(1);
  expect(asked.length).toBeLessThanOrEqual(4);
});

test("hops and seals do not come with the headers, and one without a date has that of its coming", async () => {
  const hops = `Received: from a.example by b.example; Tue, 3 Nov 2015 09:00:00 +0000\n`.repeat(20);
  const dateless = hops + letter(1).replace(/^Date: .*\n/m, "");
  const begun = Date.now();
  await sides.bare.append("INBOX", dateless);
  service.wire.refuse = (command) => (/BODY\.PEEK\[\]/.test(command) ? "NO [INUSE] not now" : null);
  await sides.connect();
  expect(await sides.see()).toBe(1);
  const { context, db } = sides.fresh;
  const dateOf = async () => Date.parse((await readMessage(context, (await sides.here())[0]!.id)).date);
  expect(Math.abs((await dateOf()) - begun)).toBeLessThan(60_000);
  const [stored] = await db.sql<{ raw: string }[]>`select encode(raw, 'escape') as raw from content`;
  expect(stored!.raw).toContain("From: Guest 1");
  expect(stored!.raw).not.toContain("Received");
  const was = await dateOf();
  service.wire.refuse = () => null;
  await sides.settle();
  const message = await readMessage(context, (await sides.here())[0]!.id);
  expect([Date.parse(message.date), message.source, message.text]).toEqual([was, "here", "Beds, please: 1.\n"]);
});
