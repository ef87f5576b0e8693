import { afterAll, beforeAll, describe, expect, test } from "vitest";
import {
  changeRule,
  createMacro,
  createRule,
  exportSieve,
  importSieve,
  listFolders,
  listLabels,
  listMacros,
  listRules,
  readList,
} from "@/server/act";
import { freshDatabase, type Fresh } from "./database";

/** Scripts taken in as rules with what they name, and rules handed out with what they are called here. */

let fresh: Fresh;
const SCRIPT = `require ["fileinto", "imap4flags"];
# Suppliers
if address :is "from" ["a@larch.example", "b@larch.example"] {
  addflag "To=20pay";
  fileinto "Office/Suppliers";
  stop;
}
# Suppliers
if header :contains "subject" "boots" { redirect "boots@huts.example"; }
if header :contains "x-spam" "yes" { discard; }
if header :contains "subject" "invoice" { fileinto "Archive"; stop; }
`;

beforeAll(async () => {
  fresh = await freshDatabase();
});
afterAll(() => fresh.drop());

describe("a script", () => {
  test("is looked at without anything being made", async () => {
    const before = await listMacros(fresh.context);
    const said = await importSieve(fresh.context, { script: SCRIPT, dry: true });
    expect(said).toMatchObject({
      rules: [
        { name: "Suppliers", narrow: "", senders: 2, stop: true, steps: "label add To pay · move Office/Suppliers" },
        { narrow: 'subject~"*invoice"', steps: "move Archive", stop: true },
      ],
      folders: ["Office/Suppliers"],
      labels: ["To pay"],
      left: [{ line: 9 }, { line: 10 }],
    });
    expect(await listRules(fresh.context)).toEqual([]);
    expect(await listMacros(fresh.context)).toEqual(before);
  });

  test("comes in as rules that are off, with their list, folder, label and what was left", async () => {
    await importSieve(fresh.context, { script: SCRIPT });
    const rules = await listRules(fresh.context);
    expect(rules.map(({ on, stop, narrow, list, senders }) => ({ on, stop, narrow, list, senders }))).toEqual([
      { on: false, stop: true, narrow: "", list: "Senders of Suppliers", senders: 2 },
      { on: false, stop: true, narrow: 'subject~"*invoice"', list: null, senders: 0 },
    ]);
    expect((await readList(fresh.context, "senders of suppliers")).addresses).toEqual([
      "a@larch.example",
      "b@larch.example",
    ]);
    expect(rules[0]!.remark).toBeNull();
    expect(rules[1]!.remark).toBe(
      'not taken in: redirect "boots@huts.example";\nnot taken in: if header :contains "x-spam" "yes" { discard; }',
    );
    expect((await listFolders(fresh.context)).some(({ path }) => path === "Office/Suppliers")).toBe(true);
    expect((await listLabels(fresh.context)).some(({ name }) => name === "To pay")).toBe(true);
    // Another time it is another one of the same name.
    await importSieve(fresh.context, { script: SCRIPT });
    const names = (await listMacros(fresh.context)).map(({ name }) => name);
    expect(names).toEqual(expect.arrayContaining(["Suppliers", "Suppliers 2"]));
    expect(await listRules(fresh.context)).toHaveLength(4);
  });

  test("that cannot be read is refused with where and why, and nothing is made", async () => {
    const before = (await listRules(fresh.context)).length;
    await expect(importSieve(fresh.context, { script: 'keep;\nif true { fileinto "A" }' })).rejects.toMatchObject({
      status: 422,
      detail: 'Line 2, column 24: ";" is expected here, not "}". Nothing was taken in.',
    });
    expect(await listRules(fresh.context)).toHaveLength(before);
  });
});

describe("rules", () => {
  test("are handed out as they are on, with their senders and their remarks", async () => {
    for (const { id } of (await listRules(fresh.context)).slice(0, 2))
      await changeRule(fresh.context, id, { on: true });
    const { script, notes } = await exportSieve(fresh.context);
    expect(script).toContain('address :is "from" ["a@larch.example", "b@larch.example"]');
    expect(script).toContain('# remark: not taken in: redirect "boots@huts.example";');
    expect(script).toContain("# for the list Senders of Suppliers");
    expect(notes).toEqual([3, 4].map((rule) => ({ rule, left: "It is switched off.", near: [] })));
    // What it says is what it was.
    const again = await importSieve(fresh.context, { script, dry: true });
    expect(again.rules.map(({ steps }) => steps)).toEqual(["label add To pay · move Office/Suppliers", "move Archive"]);
    expect(again.left).toEqual([]);
  });

  test("keep their remark, and are found under today's names", async () => {
    const macro = await createMacro(fresh.context, {
      name: "Beds in",
      colour: "spruce",
      steps: [{ do: "archive" }],
      settings: {},
    } as never);
    const made = await createRule(fresh.context, {
      narrow: "from~beds",
      macro: macro.id,
      on: true,
      stop: false,
      remark: "for Ines",
    });
    expect(made.remark).toBe("for Ines");
    expect((await changeRule(fresh.context, made.id, { stop: true })).remark).toBe("for Ines");
    expect((await changeRule(fresh.context, made.id, { remark: null })).remark).toBeNull();
    expect((await exportSieve(fresh.context)).script).toContain("# 5: Beds in");
  });

  test("are not more than one can keep an eye on, however they come in", async () => {
    await fresh.db.sql`
      insert into rule (person, narrow, macro, is_on)
      select person, '""'::jsonb, macro, false from rule, generate_series(1, 500) where id = (select min(id) from rule)`;
    const before = (await listMacros(fresh.context)).length;
    const many = { status: 422, detail: expect.stringMatching(/^There are 505 rules, and there may be 500/) as string };
    await expect(importSieve(fresh.context, { script: "keep; stop;" })).rejects.toMatchObject(many);
    expect(await listMacros(fresh.context)).toHaveLength(before);
    const fields = { narrow: "", macro: null, on: true, stop: false, time: "sending" } as const;
    await expect(createRule(fresh.context, fields)).rejects.toMatchObject(many);
  });
});
