import { describe, expect, test } from "vitest";
import { changeOf, invert } from "@/core/change";
import { decodeColumns, encodeColumns, type ColumnRow } from "@/core/columns";
import { folderId, messageId } from "@/core/id";
import { guessOf } from "./facts";
import { listRows } from "./list";
import { Mailbox } from "./mailbox";
import { placeName, placeOf } from "./places";

const row = (id: number, more: Partial<ColumnRow> = {}): ColumnRow => ({
  id,
  thread: id,
  dateMs: id * 1000,
  size: 10,
  folder: 1,
  bits: 0,
  traits: 0,
  marker: 0,
  labels: [],
  startMs: NaN,
  dueMs: NaN,
  deferMs: NaN,
  awaitMs: NaN,
  fromName: "Ines",
  fromAddress: "ines@larch.example",
  to: "",
  subject: `number ${id}`,
  preview: "",
  list: "",
  note: "",
  flagNote: "",
  ...more,
});
function mailboxOf(...rows: ColumnRow[]): Mailbox {
  const mailbox = new Mailbox();
  mailbox.merge(decodeColumns(encodeColumns(rows).buffer as ArrayBuffer));
  return mailbox;
}
const listed = (mailbox: Mailbox) =>
  [...listRows(mailbox, () => true, new Map(), "oldest")].map((at) => mailbox.columns.id[at]);

describe("the view's copy of the mailbox", () => {
  test("a message being deleted for good is in no list, and is again if the deletion is refused", () => {
    const mailbox = mailboxOf(row(1), row(2));
    const gone = changeOf([{ kind: "gone", message: messageId(1), before: false, after: true }]);
    mailbox.apply(gone);
    expect(listed(mailbox)).toEqual([2]);
    mailbox.apply(invert(gone));
    expect(listed(mailbox)).toEqual([1, 2]);
  });
  test("what is deferred is not counted in the inbox, but for itself", () => {
    const mailbox = mailboxOf(row(1), row(2, { deferMs: 5000 }), row(3, { folder: 2, deferMs: 5000 }));
    const counts = mailbox.counts(10_000, 1);
    expect([counts.get(1)?.total, counts.get(0)?.total, counts.get(2)?.total]).toEqual([1, 1, 1]);
  });
  test("threads are taken along whole", () => {
    const mailbox = mailboxOf(row(1), row(2, { thread: 1 }), row(3), row(4, { thread: 1 }));
    expect(mailbox.withThreads([2]).sort()).toEqual([1, 2, 4]);
    expect(mailbox.withThreads([3])).toEqual([3]);
  });
  test("facts of several messages do not get in each other's way", () => {
    const mailbox = mailboxOf(row(1), row(2, { subject: "other" }));
    const [a, b] = [mailbox.facts(messageId(1))!, mailbox.facts(messageId(2))!];
    expect([b.text("subject"), a.text("subject")]).toEqual([" other ", " number 1 "]);
    expect(a.body).toBeNull();
  });
  test("the guess looks only at folders mail is filed into", () => {
    const mailbox = mailboxOf(row(1), row(2), row(3, { folder: 5 }), row(4, { folder: 5 }));
    const guess = guessOf(mailbox.columns, new Set([5]));
    expect(guess(mailbox.facts(messageId(1))!)).toBe(folderId(5));
    expect(guessOf(mailbox.columns, new Set([7]))(mailbox.facts(messageId(1))!)).toBeNull();
  });
});

describe("places", () => {
  test.each([
    [{ path: "Inbox", role: "inbox" as const }, "folder=Inbox & !deferred", "Inbox"],
    [{ path: "Lost property", role: null }, 'folder="Lost property"', "Lost property"],
    [{ path: 'The "big" one', role: null }, 'folder="The ""big"" one"', 'The "big" one'],
  ])("%o", (folder, place, name) => {
    expect(placeOf(folder)).toBe(place);
    expect(placeName(place)).toBe(name);
  });
  test("those that are no folder say what they are", () => {
    expect([placeName(""), placeName("deferred"), placeName("label=Invoice")]).toEqual([
      "All mail",
      "Deferred",
      "label=Invoice",
    ]);
  });
});
