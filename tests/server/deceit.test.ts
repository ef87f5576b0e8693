import { randomUUID } from "node:crypto";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { decodeIndex } from "@/core/columns";
import { TRAIT } from "@/core/narrow";
import { listMessages, readIndex, readMessage, runMacro } from "@/server/act";
import { freshDatabase, type Fresh } from "./database";
import { serviceOf } from "./service";

/** What does not fit about mail, as it comes in and as it is read. */

let fresh: Fresh;
let arrives: Awaited<ReturnType<typeof serviceOf>>["arrives"];
beforeAll(async () => {
  fresh = await freshDatabase();
  ({ arrives } = await serviceOf(fresh));
  await fresh.db.sql`
    insert into contact (person, address, name) values (${fresh.context.person}, 'ines@larch.example', 'Ines Okafor')`;
  await fresh.db.sql`
    insert into written_to (person, address, name, times, last)
    values (${fresh.context.person}, 'office@valleybank.example', 'Valley Bank', 3, now())`;
});
afterAll(() => fresh.drop());

const HTML = "MIME-Version: 1.0\r\nContent-Type: text/html; charset=utf-8\r\n";
const FILE =
  'MIME-Version: 1.0\r\nContent-Type: application/octet-stream; name="plan.pdf.exe"\r\nContent-Disposition: attachment; filename="plan.pdf.exe"\r\n';
const found = async (narrow: string) =>
  (await listMessages(fresh.context, { narrow, order: "oldest", limit: 100, after: null })).rows.map(({ id }) => id);

describe("a message that does not fit", () => {
  const cases = [
    ["falselink", "a <a@one.test>", HTML, '<p>Pay at <a href="https://evil.test/x">https://larch.example/pay</a></p>'],
    ["lookalike", "Office <office@valleybenk.example>", "", "Hello."],
    ["falsename", "Ines Okafor <ines@two.test>", "", "Hello."],
    ["otherreply", "b <b@three.test>", "Reply-To: c@four.test\r\n", "Hello."],
    ["failedcheck", "d <d@five.test>", "Authentication-Results: mx.larchhuts.example; dmarc=fail\r\n", "Hello."],
    ["oddfile", "e <e@six.test>", FILE, "MZ"],
  ] as const;
  test.each(cases)(
    "%s: is found by that word, said with its evidence, and there for what a macro decides",
    async (sign, from, headers, body) => {
      const id = await arrives(from, sign, headers, `${body}\r\n`);
      expect(await found(sign)).toEqual([id]);
      expect(await found("suspect")).toContain(id);
      const { suspicions } = await readMessage(fresh.context, id);
      expect(suspicions.map((one) => one.sign)).toEqual([sign]);
      expect(suspicions[0]!.evidence.length).toBeGreaterThan(10);
      // The browser's index has it too, at once.
      const index = await readIndex(fresh.context, { ids: [id] }, 10, null);
      const { columns } = decodeIndex(new Uint8Array(index).buffer as ArrayBuffer);
      const at = columns.id.indexOf(id);
      expect(columns.traits[at]! & TRAIT[sign]).not.toBe(0);
      const steps = [{ do: "only when", narrow: sign }, { do: "junk" }];
      await runMacro(fresh.context, { id: randomUUID(), macro: { name: "x", steps }, target: { ids: [id] } } as never);
      expect(await found(`${sign} junk`)).toEqual([id]);
    },
  );

  test("an ordinary one, and one's own, are not", async () => {
    const ids = [
      await arrives("Ines Okafor <ines@larch.example>", "Plain", "Reply-To: bookings@larchhuts.example\r\n"),
      await arrives("Bank <x@valleybank.example>", "Plain", "Authentication-Results: mx.other.example; dmarc=fail\r\n"),
      await arrives("Me <bookings@larchhuts.example>", "Own", "Reply-To: me@elsewhere.test\r\n"),
    ];
    const suspect = await found("suspect");
    for (const id of ids) {
      expect(suspect).not.toContain(id);
      expect((await readMessage(fresh.context, id)).suspicions).toEqual([]);
    }
  });

  test("what is said when it is read goes by whom one knows by then", async () => {
    const id = await arrives("Ida Lang <ida@seven.test>", "Hello");
    expect((await readMessage(fresh.context, id)).suspicions).toEqual([]);
    await fresh.db.sql`
      insert into contact (person, address, name) values (${fresh.context.person}, 'ida@tarn.example', 'Ida Lang')`;
    expect((await readMessage(fresh.context, id)).suspicions).toMatchObject([{ sign: "falsename" }]);
  });
});
