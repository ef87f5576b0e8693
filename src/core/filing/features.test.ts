import { expect, test } from "vitest";
import { folderId } from "../id";
import { featuresOf, type FilingMail } from ".";
import { Counts, Fading, monthOf } from "./counts";
import { Reliability } from "./reliability";

const MAIL: FilingMail = {
  from: "Ines@Larch.example",
  to: ["Bo@tarn.example"],
  via: ["desk@huts.example"],
  list: "",
  subject: "Re: Beds, beds on 12 Dec: CHF 40",
  words: ["The stöve smokes", "the stove"],
  files: ["plan.PDF", "noending", "list.pdf"],
  thread: [folderId(4)],
  // A Saturday in the evening.
  dateMs: Date.parse("2026-11-28T17:00:00Z"),
};

test("what of a message is counted: each once, without case and accents, and no bare numbers", () => {
  expect(featuresOf(MAIL).map(({ key }) => key)).toEqual([
    "thread 4",
    "sender ines@larch.example",
    "domain larch.example",
    "with bo@tarn.example",
    "via desk@huts.example",
    "subject beds",
    "subject dec",
    "subject chf",
    "word the",
    "word stove",
    "word smokes",
    "file pdf",
    "figure amount",
    "figure day",
    "time weekend2",
  ]);
  const plain = featuresOf({ ...MAIL, from: "", subject: "Hello", to: [], via: [], words: [], files: [], thread: [] });
  expect(plain.map(({ key }) => key)).toEqual(["subject hello", "time weekend2"]);
});

test.each([
  ["Invoice 12.50", ["figure amount"]],
  ["€ 40 due", ["figure amount"]],
  ["on 3.12.", ["figure day"]],
  ["2026-12-03", ["figure day"]],
  ["week 48", []],
])("figures in %s", (subject, wanted) => {
  const figures = featuresOf({ ...MAIL, subject }).filter(({ kind }) => kind === "figure");
  expect(figures.map(({ key }) => key)).toEqual(wanted);
});

test("counts fade by half in a half-life, and are gone when they are taken back", () => {
  const counts = new Counts();
  const [a, b] = [folderId(1), folderId(2)];
  const seen = (key: string, now: number) => {
    const all: [number, number][] = [];
    counts.each(key, now, new Fading(2), (folder, weight) => all.push([folder, weight]));
    return all;
  };
  counts.add("x", a, 10, 1);
  counts.add("x", a, 10, 1);
  counts.add("x", a, 12, 1);
  counts.add("x", b, 12, 1);
  expect(seen("x", 12)).toEqual([
    [1, 2],
    [2, 1],
  ]);
  expect(seen("x", 14)[0]![1]).toBeCloseTo(2 * 0.25 + 0.5, 10);
  // What is later than now counts whole.
  expect(seen("x", 9)).toEqual([
    [1, 3],
    [2, 1],
  ]);
  expect([counts.times("x", a), counts.times("x", folderId(9)), counts.times("y", a)]).toEqual([3, 0, 0]);
  expect([counts.total("x"), counts.total("y"), counts.spread("x")]).toEqual([4, 0, 2]);
  counts.add("x", a, 12, -1);
  expect([counts.times("x", a), counts.total("x")]).toEqual([2, 3]);
  expect(Counts.from(JSON.parse(JSON.stringify(counts))).total("x")).toBe(3);
  counts.add("x", a, 10, -2);
  expect(counts.spread("x")).toBe(1);
  counts.add("x", b, 12, -1);
  expect(JSON.stringify(counts)).toBe("[]");
  expect(monthOf(30 * 86_400_000)).toBe(1);
});

test("how sure a guess is: as it seems at first, then as guesses like it turned out, never less for what seems likelier", () => {
  const reliability = new Reliability();
  expect(reliability.of(0.9, 0)).toBeCloseTo(0.9, 1);
  for (let n = 0; n < 200; n++) reliability.add(Reliability.binOf(0.9), n % 2 === 0, 0, 1);
  expect(reliability.of(0.9, 0)).toBeCloseTo(0.5, 1);
  const curve = Array.from({ length: 101 }, (_, n) => reliability.of(n / 100, 0));
  expect([...curve].sort((a, b) => a - b)).toEqual(curve);
  // Long ago weighs less than what is said now.
  for (let n = 0; n < 20; n++) reliability.add(Reliability.binOf(0.9), true, 12, 1);
  expect(reliability.of(0.9, 12)).toBeGreaterThan(0.75);
  expect([Reliability.binOf(0), Reliability.binOf(1), Reliability.binOf(2), Reliability.binOf(-1)]).toEqual([
    0, 24, 24, 0,
  ]);
});
