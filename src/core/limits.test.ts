import { describe, expect, test } from "vitest";
import { orderShape, runRequest, settingsPatch, taskPatch, batchPatch, newLabel, newMarker, deckShape } from "./api";
import { settingsSchema, stepsSchema, type Step } from "./macro";
import { STATE_BIT } from "./columns";
import { parse, textOfIssue, TRAIT } from "./narrow";
import { readPack } from "./pack";
import { readPath } from "./place";

/** Limits, each at its last good value and one past it: a limit nobody tests is a limit nobody keeps. */

const x = (length: number) => "x".repeat(length);
const fits = (step: object) => stepsSchema.safeParse([step]).success;

describe("steps", () => {
  test.each<[string, (n: number) => object, number]>([
    ["a fixed folder", (n) => ({ do: "move", to: x(n) }), 200],
    ["a fixed label", (n) => ({ do: "label", add: x(n) }), 200],
    ["a marker", (n) => ({ do: "marker", set: x(n) }), 1],
    ["a time", (n) => ({ do: "defer", until: x(n) }), 60],
    ["a text", (n) => ({ do: "note", text: x(n) }), 2000],
    ["a condition", (n) => ({ do: "only when", narrow: x(n) }), 2000],
    ["the name of an answer", (n) => ({ do: "ask", name: x(n), kind: "text" }), 40],
    ["a prompt", (n) => ({ do: "ask", name: "a", kind: "text", prompt: x(n) }), 80],
    ["a prompt of a value", (n) => ({ do: "note", text: { ask: "text", prompt: x(n) } }), 80],
    ["an answer used", (n) => ({ do: "note", text: { answer: x(n) } }), 40],
    ["what stands in", (n) => ({ do: "note", text: { take: "subject", else: x(n) } }), 200],
    ["a pattern", (n) => ({ do: "note", text: { pattern: x(n), in: "text" } }), 300],
    ["a group of a pattern", (n) => ({ do: "note", text: { pattern: "a", in: "text", group: x(n) } }), 40],
    ["a macro's name", (n) => ({ do: "run macro", macro: x(n) }), 80],
    ["a template", (n) => ({ do: "reply", template: x(n) }), 80],
  ])("%s", (_, step, most) => {
    expect([fits(step(most)), fits(step(most + 1)), fits(step(0))]).toEqual([true, false, false]);
  });
  test.each<[string, (n: number) => object, number, number]>([
    ["an estimate", (n) => ({ do: "make task", estimate: n }), 1, 10_000],
    ["minutes of a block", (n) => ({ do: "block time", at: "tomorrow", minutes: n }), 5, 1440],
  ])("%s", (_, step, least, most) => {
    expect([least - 1, least, most, most + 1].map((n) => fits(step(n)))).toEqual([false, true, true, false]);
    expect(fits(step(least + 0.5))).toBe(false);
  });
  test("a prefix may be empty, and is at most so long", () => {
    expect([0, 80, 81].map((n) => fits({ do: "reply", prefix: x(n) }))).toEqual([true, true, false]);
  });
  test("fifty in a macro and in a branch, five conditions deep", () => {
    const many = (n: number): Step[] => Array.from({ length: n }, () => ({ do: "read" }));
    const ok = (steps: readonly Step[]) => stepsSchema.safeParse(steps).success;
    expect([ok(many(50)), ok(many(51))]).toEqual([true, false]);
    expect([50, 51].map((n) => ok([{ do: "if", narrow: "unread", then: many(n), else: many(n - 1) }]))).toEqual([
      true,
      false,
    ]);
    const nested = (n: number): Step => ({ do: "if", narrow: "unread", then: n > 1 ? [nested(n - 1)] : [], else: [] });
    const inElse = (n: number): Step => ({ do: "if", narrow: "unread", then: [], else: n > 1 ? [inElse(n - 1)] : [] });
    for (const make of [nested, inElse]) expect([ok([make(5)]), ok([make(6)])]).toEqual([true, false]);
  });
  test("one of several parameters, exactly", () => {
    expect(fits({ do: "label", add: "A", remove: "B" })).toBe(false);
    expect(fits({ do: "label" })).toBe(false);
    expect(fits({ do: "marker", set: "R", clear: true })).toBe(false);
    expect(fits({ do: "marker", next: true })).toBe(true);
    expect(fits({ do: "if", narrow: "unread", answer: "a", then: [] })).toBe(false);
    expect(fits({ do: "only when" })).toBe(false);
  });
});

describe("settings", () => {
  const ok = (settings: object) => settingsSchema.safeParse(settings).success;
  test("when to ask, and which messages", () => {
    expect([0, 1, 1_000_000, 1_000_001, 1.5].map((confirm) => ok({ confirm }))).toEqual([
      false,
      true,
      true,
      false,
      false,
    ]);
    expect([2000, 2001].map((n) => ok({ for: x(n) }))).toEqual([true, false]);
    expect(ok({ unattended: false })).toBe(false);
    expect(settingsSchema.parse(undefined)).toEqual({});
  });
  test("how long things are kept", () => {
    const days = (name: string, n: number | null) => settingsPatch.safeParse({ [name]: n }).success;
    expect([6, 7, 3650, 3651].map((n) => days("ledgerDays", n))).toEqual([false, true, true, false]);
    expect([0, 1, 3650, 3651].map((n) => days("trashDays", n))).toEqual([false, true, true, false]);
    expect(days("junkDays", null)).toBe(true);
    expect(settingsPatch.safeParse({ other: 1 }).success).toBe(false);
  });
});

describe("requests", () => {
  const run = (more: object) =>
    runRequest.safeParse({
      id: "5b1c0000-0000-4000-8000-000000000001",
      macro: { steps: [] },
      target: { ids: [1] },
      ...more,
    }).success;
  test("ids fit the columns that hold them", () => {
    expect([1, 2_147_483_647, 2_147_483_648, 0, -1].map((macro) => run({ macro }))).toEqual([
      true,
      true,
      false,
      false,
      false,
    ]);
    expect([2_147_483_648, 2 ** 53 - 1, 2 ** 53, 0, 1.5].map((id) => run({ target: { ids: [id] } }))).toEqual([
      true,
      true,
      false,
      false,
      false,
    ]);
    expect(run({ macro: { id: 2_147_483_648, steps: [] } })).toBe(false);
  });
  test("times are ones that can be meant", () => {
    const at = (time: string) => run({ at: time });
    expect(at("1900-01-01T00:00:00Z")).toBe(true);
    expect(at("1899-12-31T23:59:59Z")).toBe(false);
    expect(at("9999-12-31T23:59:59.999Z")).toBe(true);
    expect(at("9999-12-31T23:59:59.999-01:00")).toBe(false);
    expect(at("0000-01-01T00:00:00Z")).toBe(false);
    expect(at("2026-02-30T00:00:00Z")).toBe(false);
    expect(taskPatch.safeParse({ due: "10000-01-01T00:00:00Z" }).success).toBe(false);
    expect(taskPatch.safeParse({ due: null }).success).toBe(true);
  });
  test("texts are of a length, and can be kept", () => {
    const title = (text: string) => taskPatch.safeParse({ title: text }).success;
    expect([title(x(300)), title(x(301)), title(" "), title("a\0"), title("\ud800"), title("🙂")]).toEqual([
      true,
      false,
      false,
      false,
      false,
      true,
    ]);
    expect([80, 81].map((n) => newLabel.safeParse({ name: x(n) }).success)).toEqual([true, false]);
    expect([2000, 2001].map((n) => run({ answers: { a: x(n) } }))).toEqual([true, false]);
    expect(["R", "r", "RR", "É", "1"].map((letter) => newMarker.safeParse({ letter }).success)).toEqual([
      true,
      false,
      false,
      true,
      false,
    ]);
  });
  test("places count from nothing, and fit their column", () => {
    const position = (n: number) => batchPatch.safeParse({ position: n }).success;
    expect([-1, 0, 2_147_483_647, 2_147_483_648].map(position)).toEqual([false, true, true, false]);
    expect(orderShape.safeParse("largest").success).toBe(false);
    const pad = { layer: "plain", code: "KeyF", macro: 1 };
    const deck = (pads: number, extra: number) =>
      deckShape.safeParse({
        number: 1,
        name: "a",
        pads: Array.from({ length: pads }, () => pad),
        extra: Array.from({ length: extra }, () => ({ keys: "Ctrl+KeyE", macro: 1 })),
        swipes: {},
      }).success;
    expect([deck(30, 100), deck(31, 0), deck(0, 101)]).toEqual([true, false, false]);
  });
});

describe("names and expressions", () => {
  test("a path is at most two hundred characters", () => {
    expect([readPath(x(200)).ok, readPath(x(201)).ok]).toEqual([true, false]);
    expect(["a//b", "/a", "a/", " ", "a\nb"].map((path) => readPath(path).ok)).toEqual([
      false,
      false,
      false,
      false,
      false,
    ]);
    expect(readPath(" a / b ")).toEqual({ ok: true, path: "a/b" });
  });
  const issues = (source: string) => {
    const read = parse(source);
    return read.ok ? [] : read.issues.map((issue) => issue.code);
  };
  test("an expression has at most so many characters, conditions and levels", () => {
    expect([issues(x(2000)), issues(x(2001))]).toEqual([[], ["too-long"]]);
    const terms = (n: number) => Array.from({ length: n }, (_, i) => `w${i}`);
    for (const joiner of [" ", " & ", " | ", "|"]) {
      expect(issues(terms(100).join(joiner))).toEqual([]);
      expect(issues(terms(101).join(joiner))[0]).toBe("too-many");
      expect(issues(terms(300).join(joiner)).filter((code) => code === "too-many")).toHaveLength(1);
    }
    expect(issues(`${"!(".repeat(24)}a${")".repeat(24)}`)).toEqual([]);
    expect(issues(`${"(".repeat(60)}a${")".repeat(60)}`)).toContain("stray");
    expect(textOfIssue({ code: "too-many", span: { from: 0, to: 1 }, most: 100 })).toContain("100");
  });
});

describe("packs", () => {
  const pack = (more: object) =>
    readPack(
      JSON.stringify({
        kind: "tachyne macro pack",
        version: 1,
        name: "Mine",
        macros: [],
        decks: [],
        folders: [],
        labels: [],
        markers: [],
        templates: [],
        ...more,
      }),
    );
  const macro = (name: string, steps: Step[] = [{ do: "read" }]) => ({ name, colour: "slate", steps, settings: {} });
  const many = <T>(n: number, of: (i: number) => T): T[] => Array.from({ length: n }, (_, i) => of(i));
  test("hold so many of each, and no more", () => {
    expect(pack({}).ok).toBe(true);
    expect([500, 501].map((n) => pack({ macros: many(n, (i) => macro(`m${i}`)) }).ok)).toEqual([true, false]);
    expect([500, 501].map((n) => pack({ folders: many(n, (i) => `f${i}`) }).ok)).toEqual([true, false]);
    expect([500, 501].map((n) => pack({ labels: many(n, (i) => ({ name: `l${i}`, colour: "slate" })) }).ok)).toEqual([
      true,
      false,
    ]);
    const marker = { letter: "R", colour: "slate", meaning: "" };
    expect([8, 9].map((n) => pack({ markers: many(n, () => marker) }).ok)).toEqual([true, false]);
    expect([60, 61].map((n) => pack({ markers: [{ ...marker, meaning: x(n) }] }).ok)).toEqual([true, false]);
    expect([80, 81].map((n) => pack({ macros: [macro(x(n))] }).ok)).toEqual([true, false]);
    expect([200, 201].map((n) => pack({ folders: [x(n)] }).ok)).toEqual([true, false]);
  });
  test("are no larger than two megabytes, no deeper than any of ours, and hold what can be kept", () => {
    const filled = (bytes: number) => readPack(`${JSON.stringify({ kind: "x" })}${" ".repeat(bytes)}`);
    expect(filled(2 * 1024 * 1024)).toMatchObject({ ok: false, why: expect.stringContaining("larger") });
    expect(filled(1000)).toMatchObject({ ok: false, why: expect.stringContaining("not a macro pack") });
    expect(readPack(`${"[".repeat(70)}${"]".repeat(70)}`)).toMatchObject({ why: expect.stringContaining("deeper") });
    expect(readPack('"[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[["')).toMatchObject({
      why: expect.stringContaining("not a macro pack"),
    });
    expect(readPack('"\\"[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[["')).toMatchObject({
      why: expect.stringContaining("not a macro pack"),
    });
    expect(pack({ macros: [macro("a", [{ do: "note", text: "x\0" }])] })).toMatchObject({
      why: expect.stringContaining("in the macro “a”, step 1"),
    });
    expect(pack({ version: 2 })).toMatchObject({ ok: false, why: expect.stringContaining("version 2") });
  });
  test("with macros that come to too many steps are refused by name", () => {
    const levels = many(4, (i) =>
      macro(
        `L${i}`,
        many(50, (): Step => (i === 3 ? { do: "read" } : { do: "run macro", macro: `L${i + 1}` })),
      ),
    );
    expect(pack({ macros: levels })).toMatchObject({ ok: false, why: expect.stringContaining('"L0"') });
    expect(pack({ macros: levels.slice(3) }).ok).toBe(true);
  });
});

test("bits that are stored are never numbered anew", () => {
  expect(TRAIT).toEqual({
    attachment: 1,
    invite: 2,
    listmail: 4,
    automatic: 8,
    bounce: 16,
    answered: 32,
    mine: 64,
    falselink: 128,
    lookalike: 256,
    falsename: 512,
    otherreply: 1024,
    failedcheck: 2048,
    oddfile: 4096,
  });
  expect(STATE_BIT).toEqual({ read: 1, pin: 2, owed: 4, flagged: 8 });
});
