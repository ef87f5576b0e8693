import { describe, expect, test } from "vitest";
import { filingMail as mail } from "../../../tests/fixtures/filing";
import { folderId } from "../id";
import { domainOf, percentOf, Ranker, signText, whyText, type Reason } from ".";

const reason = (kind: Reason["kind"], key: string, times: number): Reason => ({ kind, key, times });

test("a domain is what stands behind the last @", () => {
  expect(domainOf('"a@b"@X.example')).toBe("x.example");
});

test("nothing is said to be certain, and nothing to be less than nothing", () => {
  expect([0, 0.004, 0.005, 0.494, 0.495, 0.985, 0.995, 1].map(percentOf)).toEqual([0, 0, 1, 49, 50, 99, 99, 99]);
});

describe("reasons in words", () => {
  test("say how often, with one and many", () => {
    expect(whyText(reason("sender", "sender ines@larch.example", 14))).toBe("14 messages from this sender are there");
    expect(whyText(reason("sender", "sender ines@larch.example", 1))).toBe("1 message from this sender is there");
    expect(whyText(reason("domain", "domain larch.example", 1))).toBe("1 message from larch.example is there");
    expect(whyText(reason("list", "list ridge.notes", 2))).toBe("2 messages of the list ridge.notes are there");
    expect(whyText(reason("subject", "subject invoice", 1))).toBe("“invoice” in its subject, filed there once");
    expect(whyText(reason("word", "word stove", 3))).toBe("“stove” in its text, filed there 3 times");
    expect(whyText(reason("figure", "figure amount", 3))).toContain("an amount in its subject");
    expect(whyText(reason("figure", "figure day", 3))).toContain("a date in its subject");
    expect(whyText(reason("thread", "thread 4", 9))).toBe("it belongs to a thread that is filed there");
  });
});

describe("what a person is shown of what was learned", () => {
  const ranker = new Ranker();
  const [lists, bookings] = [folderId(1), folderId(2)];
  for (let i = 0; i < 3; i++) ranker.learn(mail("notes@ridge.example", { list: "ridge.notes" }), lists, 0);
  ranker.learn(mail("ines@larch.example", { files: ["a.PDF"], words: ["stove"] }), bookings, 0);

  test("is how many messages, and what is found there most often, the commonest first", () => {
    expect([ranker.learned(lists), ranker.learned(bookings), ranker.learned(folderId(3))]).toEqual([3, 1, 0]);
    expect(ranker.signs(lists, 2).map(signText)).toEqual(["from anybody at ridge.example", "the list ridge.notes"]);
    expect(ranker.signs(lists, 2).map(({ times }) => times)).toEqual([3, 3]);
    expect(ranker.signs(bookings, 9).map(signText).sort()).toEqual([
      "a file .pdf",
      "from anybody at larch.example",
      "from ines@larch.example",
      "“stove” in the text",
    ]);
  });

  test("kept and read again it is the same, guesses the same, and unlearns to the last bit", () => {
    const read = Ranker.from(JSON.parse(JSON.stringify(ranker)) as ReturnType<Ranker["toJSON"]>);
    expect(JSON.stringify(read)).toBe(JSON.stringify(ranker));
    const asked = mail("ines@larch.example");
    expect(read.rank(asked, 0)).toEqual(ranker.rank(asked, 0));
    const before = JSON.stringify(read);
    const receipt = JSON.parse(JSON.stringify(read.learn(asked, lists, 0))) as ReturnType<Ranker["learn"]>;
    expect(JSON.stringify(read)).not.toBe(before);
    read.unlearn(receipt);
    expect(JSON.stringify(read)).toBe(before);
    read.relearn(receipt);
    read.unlearn(receipt);
    expect(JSON.stringify(read)).toBe(before);
  });
});

describe("the reasons of a guess", () => {
  const ranker = new Ranker();
  const [lists, bookings] = [folderId(1), folderId(2)];
  for (let i = 0; i < 12; i++) {
    ranker.learn(mail(`a${i}@x.example`, { via: ["desk@huts.example"], words: ["the stove smokes"] }), bookings, 0);
    ranker.learn(mail(`b${i}@y.example`, { via: ["desk@huts.example"], words: ["the bulletin"] }), lists, 0);
  }
  const [first] = ranker.rank(mail("new@z.example", { via: ["desk@huts.example"], words: ["the cold stove"] }), 0);

  test("are what tells folders apart, not what is met in all of them", () => {
    expect(first!.folder).toBe(bookings);
    expect(first!.reasons).toEqual([{ kind: "word", key: "word stove", times: 12 }]);
  });
  test("name a thread that is there, and nothing of a sender that never wrote", () => {
    const [guess] = ranker.rank(mail("new@z.example", { thread: [lists] }), 0);
    expect(guess!.folder).toBe(lists);
    expect(guess!.reasons.map(({ kind }) => kind)).toEqual(["thread"]);
  });
});
