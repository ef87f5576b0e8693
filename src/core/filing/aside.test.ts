import { describe, expect, test } from "vitest";
import { asideOffer, type Fate } from ".";

const fate = (more: Partial<Fate>): Fate => ({ ripe: 31, read: 0, trashedUnread: 0, writtenTo: false, ...more });

/** What is offered a place aside, and why. */
describe("mail is offered to stand aside", () => {
  test.each([
    ["31 of 31 trashed unread", { trashedUnread: 31 }],
    ["none of 31 read", {}],
    ["none of 31 read", { trashedUnread: 27 }],
    ["28 of 31 trashed unread", { trashedUnread: 28 }],
    ["none of 8 read", { ripe: 8 }],
    ["1 of 50 read", { ripe: 50, read: 1 }],
    ["2 of 100 read", { ripe: 100, read: 2 }],
    ["97 of 100 trashed unread", { ripe: 100, read: 2, trashedUnread: 97 }],
  ] as const)("because of %s", (said, more) => expect(asideOffer(fate(more))).toBe(said));

  test.each([
    ["there are few", { ripe: 7 }],
    ["none of it is old enough", { ripe: 0 }],
    ["one of few was read", { read: 1 }],
    ["one of 49 was read", { ripe: 49, read: 1 }],
    ["three of 100 were read", { ripe: 100, read: 3 }],
    ["one has written to them", { trashedUnread: 31, writtenTo: true }],
  ] as const)("but not where %s", (_, more) => expect(asideOffer(fate(more))).toBeNull());
});
