import { describe, expect, test } from "vitest";
import { ownWords, passedList, passedMessage, passedThread, type Passed } from ".";

const one: Passed = {
  subject: "Beds for 5",
  from: "Ines Venn <ines@post.example>",
  to: "Hut office <bookings@larchhuts.example>",
  date: "Thu 26 Nov 2026, 05:58",
  text: "Hello,\r\n\r\n\r\n\r\nfive of us.   \n\u00a0\nInes\n\n",
  files: [],
  link: "http://huts.example/message/12",
};

describe("mail as text", () => {
  test("says what it is, where to read it, and its words without loose ends", () => {
    expect(passedMessage(one)).toBe(
      [
        "Beds for 5",
        "From: Ines Venn <ines@post.example>",
        "To: Hut office <bookings@larchhuts.example>",
        "Date: Thu 26 Nov 2026, 05:58",
        "http://huts.example/message/12",
        "",
        "Hello,",
        "",
        "five of us.",
        "",
        "Ines",
        "",
      ].join("\n"),
    );
  });

  test("names what is attached, and leaves out what is not there", () => {
    const text = passedMessage({ ...one, subject: "", to: "", files: ["plan.pdf", "map.gif"] });
    expect(text.split("\n").slice(0, 5)).toEqual([
      "(no subject)",
      "From: Ines Venn <ines@post.example>",
      "Date: Thu 26 Nov 2026, 05:58",
      "Attached: plan.pdf, map.gif",
      "http://huts.example/message/12",
    ]);
  });

  test("a head is a line, whatever is in a subject or a name", () => {
    const text = passedMessage({ ...one, subject: "two\r\nlines\tand  a tab", from: "A\nDate: never" });
    expect(text.split("\n").slice(0, 3)).toEqual([
      "two lines and a tab",
      "From: A Date: never",
      "To: Hut office <bookings@larchhuts.example>",
    ]);
    expect(passedList([{ ...one, subject: "a\nb" }])).toBe(
      "Thu 26 Nov 2026, 05:58  Ines Venn <ines@post.example>: a b  http://huts.example/message/12\n",
    );
  });

  test("a list is a line for each", () => {
    expect(passedList([one, { ...one, subject: "", link: "x" }]).split("\n")).toEqual([
      "Thu 26 Nov 2026, 05:58  Ines Venn <ines@post.example>: Beds for 5  http://huts.example/message/12",
      "Thu 26 Nov 2026, 05:58  Ines Venn <ines@post.example>: (no subject)  x",
      "",
    ]);
  });

  test.each([
    ["yes\n\nOn Friday Ines wrote:\n> five\n> of us\n", "yes"],
    ["yes\n\nOn Friday, at ten, and this is long,\nInes Venn wrote:\n> five\n\n> of us\n\n", "yes"],
    ["It is this.\nInes wrote:\n> five", "It is this."],
    ["> five\nof six?\n> two\nno", "> five\nof six?\n> two\nno"],
    ["> all quoted", ""],
    ["Only this: ", "Only this:"],
    ["", ""],
  ])("what %j says in its own words", (text, own) => {
    expect(ownWords(text)).toBe(own);
  });

  test("a thread is each of its messages in its own words", () => {
    const answer = { ...one, subject: "Re: Beds for 5", text: "Yes.\n\nInes wrote:\n> Hello,\n> five of us.\n" };
    const text = passedThread([one, answer]);
    expect(text.split("\n").filter((line) => line === "-".repeat(40))).toHaveLength(1);
    expect(text.endsWith("\n\nYes.\n")).toBe(true);
    expect(text.indexOf("five of us.")).toBe(text.lastIndexOf("five of us."));
  });
});
