import PostalMime from "postal-mime";
import { afterAll, beforeAll, beforeEach, describe, expect, test } from "vitest";
import { newEvent } from "@/core/api";
import { runId } from "@/core/id";
import {
  answerInvitation,
  createEvent,
  eventsIn,
  changeEvent,
  invite,
  tellPeople,
  listFolders,
  readInvitation,
  readLedger,
  readRaw,
  takeBack,
} from "@/server/act";
import { fillWithMessages, freshDatabase, type Fresh } from "./database";

/** Invitations by mail: answered with what RFC 5546 and 6047 want, changed and called off by UID and SEQUENCE. */

let fresh: Fresh;
let message: number;
const ME = "you@hut.example";
const YEAR = { from: Date.parse("2026-01-01T00:00Z"), to: Date.parse("2028-01-01T00:00Z") };

interface Said {
  readonly method?: string;
  readonly sequence?: number;
  readonly start?: string;
  readonly people?: readonly string[];
  readonly uid?: string;
}

/** Makes the message one that carries a calendar. */
async function carry({
  method = "REQUEST",
  sequence = 0,
  start = "20270105T100000Z",
  people = [],
  uid = "round@ridge.example",
}: Said): Promise<void> {
  const lines = [
    "From: Ines <ines@ridge.example>",
    `To: ${ME}`,
    "Subject: Round",
    "MIME-Version: 1.0",
    'Content-Type: multipart/alternative; boundary="b"',
    "",
    "--b",
    "Content-Type: text/plain",
    "",
    "Please come.",
    "--b",
    `Content-Type: text/calendar; method=${method}; charset=utf-8`,
    "",
    "BEGIN:VCALENDAR",
    "VERSION:2.0",
    `METHOD:${method}`,
    "BEGIN:VEVENT",
    `UID:${uid}`,
    `SEQUENCE:${sequence}`,
    `DTSTART:${start}`,
    "DURATION:PT1H",
    "SUMMARY:Round of the huts",
    "ORGANIZER:mailto:ines@ridge.example",
    ...(people.length > 0
      ? people
      : [`ATTENDEE;CN=You;PARTSTAT=NEEDS-ACTION:mailto:${ME}`, "ATTENDEE:mailto:bo@ridge.example"]),
    "END:VEVENT",
    "END:VCALENDAR",
    "--b--",
    "",
  ];
  await fresh.db.sql`
    update content set raw = ${Buffer.from(lines.join("\r\n"))}
    where id = (select content from message where id = ${message})`;
}
const events = () => eventsIn(fresh.context, YEAR);

/** How many letters are in the outbox. */
async function waiting(): Promise<number> {
  const rows = await fresh.db.sql`
    select from message_state s join folder f on f.person = s.person and f.id = s.folder where f.role = 'outbox'`;
  return rows.length;
}

/** The newest letter in the outbox, as whoever gets it reads it. */
async function letter() {
  const outbox = (await listFolders(fresh.context)).find(({ role }) => role === "outbox")!;
  const [row] = await fresh.db.sql<{ message: number }[]>`
    select message from message_state where folder = ${outbox.id} order by message desc limit 1`;
  if (!row) return null;
  const raw = Buffer.from(await readRaw(fresh.context, row.message)).toString("utf8");
  const { to, subject, attachments } = await PostalMime.parse(raw);
  const ics = attachments.find(({ mimeType }) => mimeType === "text/calendar")!;
  return {
    to: to!.map(({ address }) => address),
    subject,
    type: /Content-Type: (text\/calendar[^\r\n]*(?:\r\n[ \t][^\r\n]*)*)/i.exec(raw)![1]!.replace(/\s+/g, " "),
    ics: new TextDecoder().decode(ics.content as ArrayBuffer).replace(/\r\n[ \t]/g, ""),
  };
}

beforeAll(async () => {
  fresh = await freshDatabase();
  await fresh.db.sql`update person set address = ${ME}`;
  await fresh.db.sql`delete from identity`;
  [message] = (await fillWithMessages(fresh, 1)) as [number];
});
beforeEach(() => fresh.db.sql`delete from event`);
afterAll(() => fresh.drop());

describe("what somebody asks", () => {
  test("is shown with what else is then, and one's own answer", async () => {
    await createEvent(
      fresh.context,
      newEvent.parse({ title: "Stove", start: "2027-01-05T10:30", length: 3600, zone: "UTC" }),
    );
    await createEvent(
      fresh.context,
      newEvent.parse({ title: "Free", start: "2027-01-05T10:30", length: 3600, zone: "UTC", busy: false }),
    );
    await carry({});
    expect(await readInvitation(fresh.context, message)).toMatchObject({
      kind: "request",
      title: "Round of the huts",
      start: "2027-01-05T10:00:00.000Z",
      end: "2027-01-05T11:00:00.000Z",
      organizer: "ines@ridge.example",
      reply: "needs-action",
      event: null,
      clashes: [{ title: "Stove" }],
    });
  });

  test("is in the calendar once it is answered, and the answer says who answers, and nothing of others", async () => {
    await carry({});
    expect(await answerInvitation(fresh.context, message, { do: "accepted" })).toMatchObject({ reply: "accepted" });
    expect(await events()).toMatchObject([
      {
        title: "Round of the huts",
        busy: true,
        message,
        attendees: expect.arrayContaining([{ address: ME, name: "You", reply: "accepted" }]),
      },
    ]);
    const sent = await letter();
    expect(sent).toMatchObject({ to: ["ines@ridge.example"], subject: "Accepted: Round of the huts" });
    expect(sent!.type).toMatch(/method=REPLY/);
    expect(sent!.ics).toMatch(/^METHOD:REPLY\r?$/m);
    expect(sent!.ics).toMatch(/^UID:round@ridge\.example\r?$/m);
    expect(sent!.ics.match(/^ATTENDEE.*$/gm)).toEqual([
      expect.stringMatching(/PARTSTAT=ACCEPTED:mailto:you@hut\.example/),
    ]);
    // The same answer again sends nothing.
    const letters = async () => (await fresh.db.sql`select message from draft`).length;
    const count = await letters();
    await answerInvitation(fresh.context, message, { do: "accepted" });
    expect(await letters()).toBe(count);
    await expect(answerInvitation(fresh.context, message, { do: "remove" })).rejects.toMatchObject({ status: 422 });
    // Answered otherwise, it is the same event, which takes no time any more.
    await answerInvitation(fresh.context, message, { do: "declined" });
    expect(await events()).toMatchObject([{ busy: false }]);
    expect((await letter())!.ics).toMatch(/PARTSTAT=DECLINED/);
    const entry = (await readLedger(fresh.context, { limit: 5 })).find(({ macro }) =>
      macro.name.startsWith("Declined"),
    );
    await takeBack(fresh.context, "undo", runId(entry!.id));
    expect(await events()).toMatchObject([{ busy: true }]);
  });

  test("is one entry with its letter, taken back whole; two answers at once are one", async () => {
    await carry({});
    const [letters, entries] = [await waiting(), (await readLedger(fresh.context, { limit: 50 })).length];
    const both = ["accepted", "declined"].map((deed) =>
      answerInvitation(fresh.context, message, { do: deed as "accepted" }),
    );
    const answers = await Promise.allSettled(both);
    expect(answers.map(({ status }) => status).sort()).toEqual(["fulfilled", "rejected"]);
    expect([await waiting(), (await readLedger(fresh.context, { limit: 50 })).length]).toEqual([
      letters + 1,
      entries + 1,
    ]);
    const [entry] = await readLedger(fresh.context, { limit: 1 });
    await takeBack(fresh.context, "undo", runId(entry!.id));
    expect([await waiting(), await events()]).toEqual([letters, []]);
    expect(await readInvitation(fresh.context, message)).toMatchObject({ kind: "request", event: null });
  });

  test("asked anew with a greater SEQUENCE it is an update, with a smaller one it is old", async () => {
    await carry({ sequence: 1 });
    await answerInvitation(fresh.context, message, { do: "accepted" });
    await carry({ sequence: 2, start: "20270105T140000Z" });
    expect(await readInvitation(fresh.context, message)).toMatchObject({
      kind: "update",
      start: "2027-01-05T14:00:00.000Z",
      before: { start: "2027-01-05T10:00:00.000Z" },
      // What it is itself is no clash.
      clashes: [],
    });
    await answerInvitation(fresh.context, message, { do: "tentative" });
    expect(await events()).toMatchObject([{ sequence: 2, state: "tentative", start: "2027-01-05T14:00" }]);
    await carry({ sequence: 1 });
    expect(await readInvitation(fresh.context, message)).toMatchObject({ kind: "old" });
    await expect(answerInvitation(fresh.context, message, { do: "accepted" })).rejects.toMatchObject({ status: 409 });
  });

  test("called off, it takes no place any more", async () => {
    await carry({});
    await answerInvitation(fresh.context, message, { do: "accepted" });
    await carry({ method: "CANCEL", sequence: 1 });
    expect(await readInvitation(fresh.context, message)).toMatchObject({ kind: "cancel" });
    await expect(answerInvitation(fresh.context, message, { do: "accepted" })).rejects.toMatchObject({ status: 422 });
    await answerInvitation(fresh.context, message, { do: "remove" });
    expect(await events()).toMatchObject([{ state: "cancelled", sequence: 1 }]);
  });

  test("a message that carries none, or one without an event, asks nothing", async () => {
    await carry({ uid: "x\r\nEND:VEVENT\r\nBEGIN:VJOURNAL" });
    expect(await readInvitation(fresh.context, message)).toBeNull();
    await expect(answerInvitation(fresh.context, message, { do: "accepted" })).rejects.toMatchObject({ status: 404 });
  });
});

describe("what one asks oneself", () => {
  test("goes to everybody who is asked; their answers are noted, their other times taken", async () => {
    const { id } = await createEvent(
      fresh.context,
      newEvent.parse({ title: "Stocktaking", start: "2027-02-01T09:00", length: 3600, zone: "Europe/Zurich" }),
    );
    const people = [{ address: "bo@ridge.example", name: "Bo", reply: "needs-action" as const }];
    const { uid } = await invite(fresh.context, id, { people });
    const sent = await letter();
    expect(sent).toMatchObject({ to: ["bo@ridge.example"], subject: "Invitation: Stocktaking" });
    expect(sent!.ics).toMatch(/^METHOD:REQUEST\r?$/m);
    expect(sent!.ics).toMatch(/^ORGANIZER:mailto:you@hut\.example\r?$/m);
    expect(sent!.ics).toMatch(/^DTSTART;TZID=Europe\/Zurich:20270201T090000\r?$/m);
    await carry({ method: "REPLY", uid, people: ["ATTENDEE;PARTSTAT=DECLINED:mailto:bo@ridge.example"] });
    expect(await readInvitation(fresh.context, message)).toMatchObject({ kind: "reply", event: id });
    await answerInvitation(fresh.context, message, { do: "note" });
    expect(await events()).toMatchObject([{ attendees: [{ address: "bo@ridge.example", reply: "declined" }] }]);
    await carry({ method: "COUNTER", uid, start: "20270202T100000Z", people: ["ATTENDEE:mailto:bo@ridge.example"] });
    expect(await readInvitation(fresh.context, message)).toMatchObject({ kind: "counter" });
    await answerInvitation(fresh.context, message, { do: "take" });
    expect(await events()).toMatchObject([{ start: "2027-02-02T10:00", zone: "UTC", sequence: 1 }]);
  });

  test("those who were asked are told that it has changed, or is called off", async () => {
    const { id } = await createEvent(
      fresh.context,
      newEvent.parse({ title: "Stocktaking", start: "2027-02-01T09:00", length: 3600, zone: "Europe/Zurich" }),
    );
    await expect(tellPeople(fresh.context, id, { what: "changed" })).rejects.toMatchObject({ status: 422 });
    const people = ["bo@ridge.example", ME].map((address) => ({ address, name: "", reply: "needs-action" as const }));
    await invite(fresh.context, id, { people });
    await changeEvent(fresh.context, id, { start: "2027-02-01T14:00" });
    await tellPeople(fresh.context, id, { what: "changed" });
    const changed = await letter();
    expect(changed).toMatchObject({ to: ["bo@ridge.example"], subject: "Changed: Stocktaking" });
    expect(changed!.ics).toMatch(/^METHOD:REQUEST\r?$/m);
    expect(changed!.ics).toMatch(/^DTSTART;TZID=Europe\/Zurich:20270201T140000\r?$/m);
    expect(changed!.ics).toMatch(/^SEQUENCE:1\r?$/m);
    await tellPeople(fresh.context, id, { what: "off" });
    const off = await letter();
    expect(off).toMatchObject({ to: ["bo@ridge.example"], subject: "Called off: Stocktaking" });
    expect(off!.type).toMatch(/method=CANCEL/);
    expect(off!.ics).toMatch(/^STATUS:CANCELLED\r?$/m);
    expect(off!.ics).toMatch(/^SEQUENCE:2\r?$/m);
    expect(await events()).toMatchObject([{ state: "cancelled", sequence: 2 }]);
    await expect(tellPeople(fresh.context, id, { what: "off" })).rejects.toMatchObject({ status: 409 });
  });

  test("however often and by how many windows the same people are asked at once, they get one letter", async () => {
    const { id } = await createEvent(
      fresh.context,
      newEvent.parse({ title: "Stocktaking", start: "2027-02-01T09:00", length: 3600, zone: "Europe/Zurich" }),
    );
    const bo = { address: "bo@ridge.example", name: "", reply: "needs-action" as const };
    const ida = { ...bo, address: "ida@larch.example" };
    const ask = async (people: (typeof bo)[]) => {
      const all = await Promise.allSettled(Array.from({ length: 5 }, () => invite(fresh.context, id, { people })));
      return all.map((one) => (one.status === "fulfilled" ? 200 : (one.reason as { status: number }).status)).sort();
    };
    const before = await waiting();
    const asked = async () => (await events())[0]!.attendees.map(({ address }) => address);
    expect(await ask([bo, bo])).toEqual([200, 409, 409, 409, 409]);
    expect([await asked(), await waiting()]).toEqual([["bo@ridge.example"], before + 1]);
    await expect(invite(fresh.context, id, { people: [bo] })).rejects.toMatchObject({ status: 409 });
    expect(await ask([bo, ida])).toEqual([200, 409, 409, 409, 409]);
    expect([await asked(), await waiting()]).toEqual([["bo@ridge.example", "ida@larch.example"], before + 2]);
  });

  test("to what somebody else asks to, nobody is asked by oneself", async () => {
    await carry({});
    await answerInvitation(fresh.context, message, { do: "accepted" });
    const [event] = await events();
    const people = [{ address: "bo@ridge.example", name: "", reply: "needs-action" as const }];
    await expect(invite(fresh.context, event!.id, { people })).rejects.toMatchObject({ status: 422 });
    await expect(tellPeople(fresh.context, event!.id, { what: "off" })).rejects.toMatchObject({ status: 422 });
  });
});
