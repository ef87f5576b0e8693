import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { readParts } from "@/core/mail";
import { readMessage } from "@/server/act";
import { ParsePool, partsOf } from "@/server/parse";
import { BOMBS } from "../fixtures/bombs";
import { fillWithMessages, freshDatabase, WORKER, type Fresh } from "./database";

/** What is large is taken apart beside the process that serves, and what was made to take for ever is given up. */

const bytes = (text: string): Uint8Array => Uint8Array.from(Buffer.from(text, "latin1"));
const BOMB = bytes(BOMBS["parts without end"]!);

/** A message with a picture of so many bytes. */
function withPicture(size: number): Uint8Array {
  const data = Buffer.alloc(size, "larch").toString("base64").replace(/.{76}/g, "$&\r\n");
  return bytes(
    [
      "From: Ines <ines@larch.example>",
      "Subject: The new stove",
      "MIME-Version: 1.0",
      'Content-Type: multipart/mixed; boundary="edge"',
      "",
      "--edge",
      "Content-Type: text/plain",
      "",
      "It is in.",
      "--edge",
      'Content-Type: image/png; name="stove.png"',
      "Content-Transfer-Encoding: base64",
      "Content-Disposition: attachment",
      "",
      data,
      "--edge--",
      "",
    ].join("\r\n"),
  );
}

describe("taking a message apart", () => {
  test.each([
    ["small", 1000],
    ["large", 500_000],
  ])("a %s one gives the same wherever it is read", async (_, size) => {
    const raw = withPicture(size);
    const { email, flaws } = await partsOf(raw, []);
    const here = await readParts(raw);
    expect(flaws).toEqual([]);
    expect(email.text?.trim()).toBe("It is in.");
    expect(email.attachments.map(({ filename }) => filename)).toEqual(["stove.png"]);
    expect(Buffer.from(email.attachments[0]!.content as ArrayBuffer)).toEqual(Buffer.alloc(size, "larch"));
    expect(email.headers).toEqual(here.email.headers);
  });

  test("others are served while a large one is read", async () => {
    let turns = 0;
    let isOver = false;
    const turn = () => {
      turns++;
      if (!isOver) setImmediate(turn);
    };
    setImmediate(turn);
    await Promise.all([partsOf(withPicture(12_000_000), []), partsOf(withPicture(12_000_000), [])]);
    isOver = true;
    expect(turns).toBeGreaterThan(20);
  });

  test("of one that is known to be heavy only the headers are read", async () => {
    const { email, flaws } = await partsOf(withPicture(500_000), ["heavy"]);
    expect([email.subject, email.text, email.attachments, flaws]).toEqual(["The new stove", undefined, [], ["heavy"]]);
  });
});

describe("a message that was made to take for ever", () => {
  let fresh: Fresh;
  const slot = globalThis as { tachyneParts?: ParsePool };
  beforeAll(async () => {
    fresh = await freshDatabase();
    await slot.tachyneParts?.close();
    slot.tachyneParts = new ParsePool(WORKER, 1, { ms: 6000, megabytes: 512 });
  });
  afterAll(async () => {
    await slot.tachyneParts?.close();
    delete slot.tachyneParts;
    await fresh.drop();
  });

  test("is given up, says so where it is opened, and what comes after it is read whole", async () => {
    const [bomb, stove] = await fillWithMessages(fresh, 2);
    const put = (id: number, raw: Uint8Array) => fresh.db.sql`
      update content set raw = ${raw}, hash = sha256(${raw}::bytea) where id = (select content from message where id = ${id})`;
    await put(bomb!, BOMB);
    await put(stove!, withPicture(500_000));
    const [held, whole] = await Promise.all([readMessage(fresh.context, bomb!), readMessage(fresh.context, stove!)]);
    expect(held.notes.join(" ")).toMatch(/headers and its source only/);
    expect(held.headers.map(({ name }) => name)).toContain("Message-ID");
    expect([held.text, held.files]).toEqual([null, []]);
    expect(whole.notes).toEqual([]);
    expect(whole.text?.trim()).toBe("It is in.");
    expect(whole.files.map(({ name, size }) => [name, size])).toEqual([["stove.png", 500_000]]);
  });
});
