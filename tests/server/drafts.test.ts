import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { changeDraft, createDraft, listDrafts, throwDraftAway } from "@/server/act";
import { freshDatabase, type Fresh } from "./database";

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
});
