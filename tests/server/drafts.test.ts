import { randomUUID } from "node:crypto";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { runId } from "@/core/id";
import {
  addDraftFile,
  changeDraft,
  createDraft,
  listDrafts,
  listMessages,
  readEntry,
  readRaw,
  removeDraftFile,
  runMacro,
  takeBack,
  throwDraftAway,
} from "@/server/act";
import { fillWithMessages, freshDatabase, type Fresh } from "./database";

let fresh: Fresh;
beforeAll(async () => void (fresh = await freshDatabase()));
afterAll(() => fresh.drop());

describe("a letter that a window begins", () => {
  test("is begun once by one id, with one event, however often that is asked for", async () => {
    const id = "00000000-0000-4000-8000-0000000000d1";
    const first = await createDraft(fresh.context, { id, kind: "new", answers: null, subject: "once" });
    const saved = await changeDraft(fresh.context, first.id, { version: first.version, subject: "changed since" });
    const again = await createDraft(fresh.context, { id, kind: "new", answers: null, subject: "once" });
    expect(again).toMatchObject({ id: first.id, version: saved.version, subject: "changed since" });
    const other = await createDraft(fresh.context, { kind: "new", answers: null, subject: "once" });
    expect(other.id).not.toBe(first.id);
    const events = await fresh.db.sql<{ n: number }[]>`select count(*)::int as n from ledger where run = ${id}`;
    expect(events[0]!.n).toBe(1);
    await Promise.all([throwDraftAway(fresh.context, first.id), throwDraftAway(fresh.context, other.id)]);
  });

  test("asked for by several at once, is begun by one of them", async () => {
    const id = "00000000-0000-4000-8000-0000000000d2";
    const all = await Promise.all(
      Array.from({ length: 6 }, () =>
        createDraft(fresh.context, { id, kind: "new", answers: null, subject: "at once" }),
      ),
    );
    expect(new Set(all.map((draft) => draft.id)).size).toBe(1);
    expect((await listDrafts(fresh.context)).filter(({ subject }) => subject === "at once")).toHaveLength(1);
  });

  test("is no run: what came in is neither read nor taken back as one, nor does a run take its id", async () => {
    const id = runId("00000000-0000-4000-8000-0000000000d3");
    const [message] = (await fillWithMessages(fresh, 1)) as [number];
    const first = await createDraft(fresh.context, { id, kind: "new", answers: null, subject: "arrived" });
    const beside = await createDraft(fresh.context, { run: id, kind: "reply", answers: message });
    expect(beside.id).not.toBe(first.id);
    const gone = expect.objectContaining({ status: 404 }) as Error;
    await expect(readEntry(fresh.context, id)).rejects.toEqual(gone);
    await expect(takeBack(fresh.context, "undo", id)).rejects.toEqual(gone);
    const macro = { name: "Read", steps: [{ do: "read" as const }] };
    const run = runMacro(fresh.context, { id, macro, target: { ids: [message] }, answers: {} });
    await expect(run).rejects.toMatchObject({ code: "23505", constraint_name: "ledger_run" });
    expect(await listDrafts(fresh.context)).toContainEqual(expect.objectContaining({ id: first.id }));
    await Promise.all([first, beside].map((draft) => throwDraftAway(fresh.context, draft.id)));
  });

  test("is the draft that a run began for the same message, and one of its own where the run began none", async () => {
    const [one, two] = (await fillWithMessages(fresh, 2)) as [number, number];
    const run = randomUUID();
    const at = new Date().toISOString();
    const macro = { name: "Answer", steps: [{ do: "reply" as const }] };
    const { waiting } = await runMacro(fresh.context, { id: run, macro, target: { ids: [one, two] }, answers: {}, at });
    for (const answers of [one, two]) {
      const { id } = await createDraft(fresh.context, { id: randomUUID(), run, kind: "reply", answers });
      expect(id).toBe(waiting.find(({ message }) => message === answers)!.draft);
    }
    const before = (await listDrafts(fresh.context)).length;
    const own = await createDraft(fresh.context, { id: randomUUID(), run: randomUUID(), kind: "reply", answers: one });
    expect(waiting.map(({ draft }) => draft)).not.toContain(own.id);
    expect(await listDrafts(fresh.context)).toHaveLength(before + 1);
  });
});

describe("the files of a letter", () => {
  const begin = (more: object = {}) => createDraft(fresh.context, { kind: "new", answers: null, ...more });
  const row = async (id: number) => {
    const page = { narrow: "folder=Drafts", order: "newest", limit: 100, after: null } as const;
    return (await listMessages(fresh.context, page)).rows.find((one) => one.id === id);
  };

  test("are in its row and its source also where they come, and go, after it was left", async () => {
    const { context } = fresh;
    const draft = await begin({ subject: "Plans" });
    await changeDraft(context, draft.id, { version: draft.version, subject: "Plans of the roof", left: true });
    expect(await row(draft.id)).toMatchObject({ attachments: 0 });
    const file = await addDraftFile(context, draft.id, "roof.txt", "text/plain", Buffer.from("steep"));
    expect(await row(draft.id)).toMatchObject({ subject: "Plans of the roof", attachments: 1 });
    const source = async () => Buffer.from(await readRaw(context, draft.id)).toString("latin1");
    expect(await source()).toContain("roof.txt");
    const out = await removeDraftFile(context, draft.id, file.id);
    expect([out.name, out.type, Buffer.from(out.data).toString()]).toEqual(["roof.txt", "text/plain", "steep"]);
    expect(await row(draft.id)).toMatchObject({ attachments: 0 });
    expect(await source()).not.toContain("roof.txt");
    await throwDraftAway(context, draft.id);
  });

  test("and whom it goes to keep it in the trash where it is thrown away; one that holds nothing is gone", async () => {
    const { context } = fresh;
    const [filed, named, empty] = [
      await begin(),
      await begin({ to: [{ name: "", address: "a@b.example" }] }),
      await begin(),
    ];
    await addDraftFile(context, filed.id, "roof.txt", "text/plain", Buffer.from("steep"));
    for (const { id } of [filed, named, empty]) await throwDraftAway(context, id);
    const left = await fresh.db.sql<{ id: number; path: string }[]>`
      select m.id::int, f.path from message m join message_state s on s.person = m.person and s.message = m.id
        join folder f on f.person = m.person and f.id = s.folder
      where m.id = any(${[filed.id, named.id, empty.id]}::bigint[]) order by m.id`;
    expect(left.map(({ id, path }) => [id, path])).toEqual([
      [filed.id, "Trash"],
      [named.id, "Trash"],
    ]);
  });
});
