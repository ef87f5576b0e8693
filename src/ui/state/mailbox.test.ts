import { describe, expect, test } from "vitest";
import { changeOf, invert } from "@/core/change";
import type { ColumnRow } from "@/core/columns";
import { messageId } from "@/core/id";
import { matchingRows } from "@/core/list";
import { Mailbox } from "./mailbox";
import { placeName, placeOf } from "./places";
import { columnRow as row, sentColumns } from "../../../tests/fixtures/columns";

function mailboxOf(...rows: ColumnRow[]): Mailbox {
  const mailbox = new Mailbox();
  mailbox.merge(sentColumns(rows));
  return mailbox;
}
const listed = (mailbox: Mailbox) => {
  const all = new Uint8Array(mailbox.columns.count).fill(1);
  return [...matchingRows(all, [], mailbox.rowsOf(mailbox.leaving))].map((at) => mailbox.columns.id[at]);
};

describe("the view's copy of the mailbox", () => {
  test("a message being deleted for good is in no list, and is again if the deletion is refused", () => {
    const mailbox = mailboxOf(row(1), row(2));
    const gone = changeOf([{ kind: "gone", message: messageId(1), before: false, after: true }]);
    mailbox.apply(gone);
    expect(listed(mailbox)).toEqual([2]);
    mailbox.apply(invert(gone));
    expect(listed(mailbox)).toEqual([1, 2]);
  });
  test("messages in the same state share it, until one of them changes", () => {
    const mailbox = mailboxOf(row(1), row(2), row(3, { bits: 1 }));
    const [one, two, three] = [1, 2, 3].map((id) => messageId(id));
    expect(mailbox.state(one!)).toBe(mailbox.state(two!));
    expect(mailbox.state(three!)).not.toBe(mailbox.state(one!));
    mailbox.apply(changeOf([{ kind: "read", message: one!, before: false, after: true }]));
    expect(mailbox.state(one!)?.read).toBe(true);
    expect(mailbox.state(two!)?.read).toBe(false);
  });
  test("threads are taken along within the places of what was chosen, own mail left alone, or everywhere", () => {
    const MINE = 64;
    const mailbox = mailboxOf(
      row(1),
      row(2, { thread: 1 }),
      row(3, { thread: 1, folder: 2 }),
      row(4, { thread: 1, traits: MINE }),
      row(5),
      row(6, { thread: 5, folder: 2 }),
    );
    const taken = (everywhere: boolean, ...ids: number[]) => mailbox.withThreads(ids, everywhere).sort();
    expect(taken(false, 2)).toEqual([1, 2]);
    expect(taken(false, 3)).toEqual([3]);
    expect(taken(false, 2, 3)).toEqual([1, 2, 3]);
    expect(taken(false, 4)).toEqual([1, 2, 4]);
    // A folder counts for the thread whose message is in it, not for others.
    expect(taken(false, 2, 6)).toEqual([1, 2, 6]);
    expect(taken(true, 2)).toEqual([1, 2, 3, 4]);
    // What was taken along takes nothing more along.
    expect(taken(false, ...taken(false, 2))).toEqual([1, 2]);
  });
  test("facts of several messages do not get in each other's way", () => {
    const mailbox = mailboxOf(row(1), row(2, { subject: "other" }));
    const [a, b] = [mailbox.facts(messageId(1))!, mailbox.facts(messageId(2))!];
    expect([b.text("subject"), a.text("subject")]).toEqual([" other ", " number 1 "]);
    expect(a.body).toBeNull();
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
