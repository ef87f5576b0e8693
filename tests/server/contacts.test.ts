import { randomUUID } from "node:crypto";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import {
  changeDraft,
  changeSettings,
  createContact,
  createDraft,
  createGroup,
  exportCards,
  importCards,
  listContacts,
  listGroups,
  readBetween,
  readLedger,
  readMessage,
  runMacro,
  sendDraft,
  takeBack,
} from "@/server/act";
import { runId } from "@/core/id";
import type { Step } from "@/core/macro";
import { sendDue } from "@/server/jobs";
import { freshDatabase, type Fresh } from "./database";
import { serviceOf } from "./service";

let fresh: Fresh;
let arrives: Awaited<ReturnType<typeof serviceOf>>["arrives"];
beforeAll(async () => {
  fresh = await freshDatabase();
  ({ arrives } = await serviceOf(fresh));
  await changeSettings(fresh.context, { holdSeconds: 0 });
});
afterAll(() => fresh.drop());

const DAY_MS = 86_400_000;
/** "2026-12" by the office's clock. */
const officeMonth = (at: Date): string =>
  new Intl.DateTimeFormat("sv-SE", { timeZone: fresh.context.zone, year: "numeric", month: "2-digit" }).format(at);

const card = (...lines: string[]) => ["BEGIN:VCARD", ...lines, "END:VCARD", ""].join("\r\n");
const known = async () =>
  (await listContacts(fresh.context)).map(({ address, name, note }) => [address, name, note].join("|")).sort();

describe("contacts as files of cards", () => {
  test("are taken in once, as one entry that undo takes back; what is here stays", async () => {
    await createContact(fresh.context, { address: "ines@larch.example", name: "Ines of the hut", note: "has the key" });
    await createContact(fresh.context, { address: "bo@fern.example", name: "", note: "" });
    await createGroup(fresh.context, { name: "Wardens", members: ["ines@larch.example"] });
    const before = await known();
    const file =
      card("VERSION:3.0", "FN:Ines Reed", "EMAIL:INES@larch.example", "NOTE:likes tea", "CATEGORIES:wardens,Guests") +
      card("VERSION:4.0", "FN:Bo Fern", "EMAIL:bo@fern.example", "EMAIL;PREF=1:b@fern.example", "NOTE:climbs") +
      card("VERSION:4.0", "KIND:group", "FN:wardens", "MEMBER:mailto:bo@fern.example") +
      card("VERSION:2.1", "FN:Old", "EMAIL:old@fern.example");
    expect(await importCards(fresh.context, file)).toEqual({
      kept: 1,
      changed: 2,
      same: 0,
      groups: 2,
      left: [{ name: "Old", why: expect.stringContaining("version 2.1") as string }],
      leftCount: 1,
    });
    const after = [
      "b@fern.example|Bo Fern|climbs",
      "bo@fern.example|Bo Fern|",
      "ines@larch.example|Ines of the hut|has the key\nlikes tea",
    ];
    expect(await known()).toEqual(after);
    expect((await listGroups(fresh.context)).map(({ name, members }) => [name, [...members].sort()])).toEqual([
      ["Guests", ["ines@larch.example"]],
      ["Wardens", ["bo@fern.example", "ines@larch.example"]],
    ]);
    const [entry] = await readLedger(fresh.context, { limit: 1 });
    expect(entry?.macro.name).toBe("Contacts from a file: 3 contacts");
    expect(await importCards(fresh.context, file)).toMatchObject({ kept: 0, changed: 0, same: 3, groups: 0 });
    await takeBack(fresh.context, "undo", runId(entry!.id));
    expect(await known()).toEqual(before);
    await takeBack(fresh.context, "redo", runId(entry!.id));
    expect(await known()).toEqual(after);
  });

  test.each([3, 4] as const)("what is saved as vCard %i finds everybody here already", async (version) => {
    const text = await exportCards(fresh.context, version);
    expect(text.match(/^BEGIN:VCARD\r$/gm)).toHaveLength(version === 3 ? 3 : 5);
    expect(await importCards(fresh.context, text)).toMatchObject({
      kept: 0,
      changed: 0,
      same: 3,
      groups: 0,
      leftCount: 0,
    });
  });

  test("a file without cards is refused, and says what would do", async () => {
    await expect(importCards(fresh.context, "name,address\nBo,bo@fern.example\n")).rejects.toMatchObject({
      status: 422,
      message: expect.stringContaining("vCard 3 or 4") as string,
    });
  });
});

describe("what went to and fro with somebody", () => {
  test("is counted by month, with the last answer of each and what either owes", async () => {
    const from = "Fay <fay@reed.example>";
    const asked = await arrives(from, "Beds in June", "", "Hello?\r\n", "Sun, 31 May 2026 23:30:00 +0000");
    await arrives("Xfay <xfay@reed.example>", "Not hers", "Cc: other@reed.example\r\n");
    await arrives("Bo <bo@fern.example>", "Copied to her", "Cc: fay@reed.example\r\n");
    const draft = await createDraft(fresh.context, { kind: "reply", answers: asked });
    const unsent = await createDraft(fresh.context, { kind: "new", answers: null });
    await changeDraft(fresh.context, unsent.id, {
      version: unsent.version,
      to: [{ name: "", address: "fay@reed.example" }],
    });
    await sendDraft(fresh.context, draft.id, { id: randomUUID(), version: null, afterwards: null });
    await sendDue(fresh.db, new Date(Date.now() + 1000));
    const { headers } = await readMessage(fresh.context, draft.id);
    const mine = headers.find(({ name }) => /^message-id$/i.test(name))!.value;
    const run = (step: Step, id: number) =>
      runMacro(fresh.context, {
        id: randomUUID(),
        macro: { name: "test", steps: [step] },
        target: { ids: [id] },
        answers: {},
      });
    await run({ do: "owe" }, asked);
    // Another month than that of the answer, whenever this is run.
    const thanked = new Date(Date.now() + 40 * DAY_MS);
    thanked.setMilliseconds(0);
    const last = await arrives(
      from,
      "Re: Beds in June",
      `In-Reply-To: ${mine}\r\n`,
      "Thanks.\r\n",
      thanked.toUTCString(),
    );
    await run({ do: "await an answer", for: "+5d" }, last);
    const between = await readBetween(fresh.context, "FAY@reed.example");
    // The first came in June already by the office's clock.
    expect(between.months).toEqual([
      { month: officeMonth(thanked), theirs: 1, mine: 0 },
      { month: officeMonth(new Date(between.last.mine!)), theirs: 0, mine: 1 },
      { month: "2026-06", theirs: 1, mine: 0 },
    ]);
    expect(between.name).toBe("Fay");
    expect(between.last.theirs).toBe(thanked.toISOString());
    expect(between.answered.theirs).toBe(thanked.toISOString());
    expect(between.answered.mine).toBe(between.last.mine);
    expect(Math.abs(Date.parse(between.last.mine!) - Date.now())).toBeLessThan(600_000);
    expect(between.owed).toEqual({ count: 1, since: "2026-05-31T23:30:00.000Z" });
    expect(between.awaited.count).toBe(1);
    expect(await readBetween(fresh.context, "nobody.at@all.example")).toEqual({
      address: "nobody.at@all.example",
      name: "",
      months: [],
      last: { theirs: null, mine: null },
      answered: { theirs: null, mine: null },
      owed: { count: 0, since: null },
      awaited: { count: 0, until: null },
    });
  });
});
