import { afterAll, beforeAll, describe, expect, test } from "vitest";
import {
  changeBatch,
  changeGroup,
  changeIdentity,
  changeMarker,
  changeTemplate,
  createBatch,
  createGroup,
  createIdentity,
  createMarker,
  createTemplate,
  deleteBatch,
  deleteGroup,
  deleteIdentity,
  deleteMarker,
  deleteTemplate,
} from "@/server/act";
import type { Context } from "@/server/act";
import { docOfText } from "@/core/letter";
import { freshDatabase, type Fresh } from "./database";

/** What is deleted by hand comes back as the row it was, whatever it is. */

let fresh: Fresh;
beforeAll(async () => {
  fresh = await freshDatabase();
});
afterAll(() => fresh.drop());

interface Case {
  readonly table: string;
  readonly make: (context: Context, name: string) => Promise<{ readonly id: number }>;
  readonly change: (context: Context, id: number, body: { deleted: false }) => Promise<object>;
  readonly remove: (context: Context, id: number) => Promise<void>;
}
const CASES: readonly Case[] = [
  {
    table: "template",
    make: (c, name) => createTemplate(c, { name, folder: "Gates", subject: "About it", body: docOfText("Left.") }),
    change: changeTemplate,
    remove: deleteTemplate,
  },
  {
    table: "identity",
    make: (c, name) => createIdentity(c, { name, address: `${name}@huts.example`, signature: "The desk" }),
    change: changeIdentity,
    remove: deleteIdentity,
  },
  {
    table: "marker",
    make: (c, name) => createMarker(c, { letter: name, colour: "plum", meaning: "what it is" }),
    change: changeMarker,
    remove: deleteMarker,
  },
  {
    table: "contact_group",
    make: (c, name) => createGroup(c, { name, members: ["ines@larch.example", "odo@larch.example"] }),
    change: changeGroup,
    remove: deleteGroup,
  },
  {
    table: "batch",
    make: (c, name) =>
      createBatch(c, { name, narrow: "folder=Inbox & unread", order: "largest", group: "sender", deck: 2 }),
    change: changeBatch,
    remove: deleteBatch,
  },
];

describe.each(CASES)("a $table", ({ table, make, change, remove }) => {
  const rows = async () => {
    const { db, person } = fresh.context;
    return db.sql`select * from ${db.sql(table)} where person = ${person} order by id`;
  };

  test("comes back as it was, under its number, as often as one likes", async () => {
    const { context } = fresh;
    const { id } = await make(context, "ZA");
    await make(context, "ZB");
    const before = await rows();
    for (let i = 0; i < 2; i++) {
      await remove(context, id);
      expect((await rows()).map((row) => row.id)).toEqual(before.map((row) => row.id).filter((one) => one !== id));
      await expect(remove(context, id)).rejects.toThrow("no");
      const answer = await change(context, id, { deleted: false });
      expect(answer).toMatchObject({ id });
      expect(answer).not.toHaveProperty("deleted");
      expect(await rows()).toEqual(before);
    }
    // What is there is left alone, and what never was is not there.
    await change(context, id, { deleted: false });
    expect(await rows()).toEqual(before);
    await expect(change(context, 30_000, { deleted: false })).rejects.toThrow("There is no");
  });

  test("is given back to nobody else, and not for ever", async () => {
    const { context } = fresh;
    const { id } = await make(context, "ZC");
    const { id: other } = await make(context, "ZD");
    const before = await rows();
    await remove(context, id);
    const [stranger] = await fresh.db.sql<{ id: number }[]>`
      insert into person (name, address, zone) values ('Odo', 'odo@other.example', 'UTC') returning id::int`;
    // Without the second wall: each statement says whose it means.
    const foreign = { ...context, db: fresh.db, person: stranger!.id } as Context;
    await expect(change(foreign, id, { deleted: false })).rejects.toThrow("There is no");
    await change(context, id, { deleted: false });
    expect(await rows()).toEqual(before);
    await remove(context, id);
    await fresh.db.sql`update taken_out set at = at - interval '31 days'`;
    await remove(context, other);
    await expect(change(context, id, { deleted: false })).rejects.toThrow("There is no");
  });
});

test("one whose name another has by now says what to do, and is kept until that is done", async () => {
  const { context } = fresh;
  const make = () => createTemplate(context, { name: "Way", folder: "", subject: "", body: docOfText("Up.") });
  const { id } = await make();
  await deleteTemplate(context, id);
  const second = await make();
  await expect(changeTemplate(context, id, { deleted: false })).rejects.toThrow("Rename or remove that one");
  await changeTemplate(context, second.id, { name: "Another way" });
  expect(await changeTemplate(context, id, { deleted: false })).toMatchObject({ id, name: "Way" });
});

test("a new marker takes the number of a removed one last, as macros may mean that one", async () => {
  const { context } = fresh;
  const marker = (letter: string) => createMarker(context, { letter, colour: "slate", meaning: "" });
  const all = async () =>
    (await fresh.db.sql<{ id: number }[]>`select id from marker where person = ${context.person} order by id`).map(
      ({ id }) => id,
    );
  for (const id of await all()) await deleteMarker(context, id);
  await fresh.db.sql`delete from taken_out where kind = 'marker'`;
  const made = [];
  for (const letter of ["A", "B", "C"]) made.push(await marker(letter));
  expect(made.map(({ id }) => id)).toEqual([1, 2, 3]);
  await deleteMarker(context, 2);
  await fresh.db.sql`update taken_out set at = at - interval '1 minute'`;
  await deleteMarker(context, 1);
  const more = [];
  for (const letter of ["D", "E", "F", "G", "H", "I"]) more.push((await marker(letter)).id);
  // First those that nobody had, then the one that was removed longest ago.
  expect(more).toEqual([4, 5, 6, 7, 8, 2]);
});
