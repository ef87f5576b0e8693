import { expect, test } from "vitest";
import { mailFileOf, withoutTop, type MailFile } from "./maildir";

const plain = { read: false, flagged: false, answered: false };

test.each<[string, MailFile | null]>([
  ["cur/1700000000.M1P2.host:2,S", { folder: "", kind: "message", flags: { ...plain, read: true } }],
  [
    "cur/1700000000.M1P2.host,S=120,W=125:2,FRS",
    { folder: "", kind: "message", flags: { read: true, flagged: true, answered: true } },
  ],
  ["new/1700000000.M1P2.host", { folder: "", kind: "message", flags: plain }],
  [".Wardens.Rota/cur/17.host:2,", { folder: "Wardens/Rota", kind: "message", flags: plain }],
  ["Mail/.Wardens/new/17.host", { folder: "Mail/Wardens", kind: "message", flags: plain }],
  ["Bookings/Groups/cur/17.host;2,S", { folder: "Bookings/Groups", kind: "message", flags: { ...plain, read: true } }],
  ["cur/17.host!2,F", { folder: "", kind: "message", flags: { ...plain, flagged: true } }],
  // Keywords in small letters are the server's own business.
  ["cur/17.host:2,Sab", { folder: "", kind: "message", flags: { ...plain, read: true } }],
  ["cur/17.host:2,ST", null],
  ["tmp/17.host", null],
  [".Wardens/tmp/17.host", null],
  ["cur/", null],
  ["dovecot-uidlist", null],
  [".Wardens/dovecot.index.cache", null],
  [".Wardens/maildirfolder", null],
  ["letters/one.eml", { folder: "letters", kind: "message", flags: null }],
  ["letters/ONE.EML", { folder: "letters", kind: "message", flags: null }],
  ["..Wardens..Rota/cur/17.host", { folder: "Wardens/Rota", kind: "message", flags: plain }],
  ["tmp/one.eml", { folder: "tmp", kind: "message", flags: null }],
  ["Bookings/Groups.mbox", { folder: "Bookings/Groups", kind: "mbox", flags: null }],
  ["Bookings\\Groups.MBX", { folder: "Bookings/Groups", kind: "mbox", flags: null }],
  ["./Inbox.mbox", { folder: "Inbox", kind: "mbox", flags: null }],
  ["__MACOSX/one.eml", null],
  ["letters/._one.eml", null],
  ["readme.txt", null],
])("%s", (path, file) => {
  expect(mailFileOf(path)).toEqual(file);
});

test("the directory that all was packed from is no folder; the only one with mail in it is", () => {
  const folders = (paths: readonly string[]) =>
    withoutTop(paths.flatMap((path) => mailFileOf(path) ?? [])).map(({ folder }) => folder);
  expect(folders(["Maildir/cur/1:2,S", "Maildir/.Rota/cur/2:2,S"])).toEqual(["", "Rota"]);
  expect(folders(["cur/1:2,S", ".Rota/cur/2:2,S"])).toEqual(["", "Rota"]);
  expect(folders(["A/cur/1", "AB/cur/2"])).toEqual(["A", "AB"]);
  expect(folders(["export/one.eml", "export/two.eml"])).toEqual(["", ""]);
  expect(folders(["Bookings/Groups.mbox"])).toEqual(["Bookings/Groups"]);
  expect(folders([])).toEqual([]);
});
