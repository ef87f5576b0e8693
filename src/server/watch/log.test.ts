import { describe, expect, test } from "vitest";
import { faultOf, lineOf, Log } from "./log";

const ENTRY = {
  at: new Date("2026-11-29T10:00:00Z"),
  level: "info",
  process: "jobs",
  what: "took in new mail",
  counts: { messages: 3 },
} as const;

describe("a line", () => {
  test("is an object where programs read it, with a time of its own", () => {
    const line = lineOf({ ...ENTRY, work: "taking mail in" }, "json");
    expect(line).not.toContain("\n");
    expect(JSON.parse(line)).toEqual({
      at: "2026-11-29T10:00:00.000Z",
      level: "info",
      process: "jobs",
      what: "took in new mail",
      work: "taking mail in",
      messages: 3,
    });
  });

  test("is read by people as what happened, how many, and where; what is empty is left out", () => {
    expect(lineOf({ ...ENTRY, code: "", kind: "Error" }, "text")).toBe(
      "jobs: took in new mail, messages 3, kind Error",
    );
  });

  test("goes where it is to, as often as it is said", () => {
    const lines: string[] = [];
    const log = new Log((line) => lines.push(line));
    log.info("sent", { messages: 2 });
    log.fault("stopped", new RangeError("Dear hut office"), { work: "sending" });
    expect(lines[0]).toBe("web: sent, messages 2");
    expect(lines[1]).toMatch(/^web: stopped, work sending, kind RangeError, where .*log\.test\.ts/);
    expect(lines.length).toBe(2);
  });
});

describe("of an error", () => {
  const SECRET = "Dear hut office";

  test("its kind, its code and where it was thrown are said, and its message is not", () => {
    const error = Object.assign(new TypeError(`cannot read ${SECRET}`), { code: "22P02" });
    const fault = faultOf(error);
    expect(fault).toMatchObject({ kind: "TypeError", code: "22P02" });
    expect(fault.where).toContain("log.test.ts");
    expect(fault.where.split(" < ").length).toBeLessThanOrEqual(3);
    expect(JSON.stringify(fault)).not.toContain(SECRET);
  });

  test("lines of its message are not taken for places in the code", () => {
    const { where } = faultOf(new Error(`x\n    at ${SECRET} (y:1:1)\n    at ${SECRET} (z:2:2)`));
    expect(where).toContain("log.test.ts");
    expect(where).not.toContain(SECRET);
  });

  test("what it was caused by is what is said", () => {
    const cause = Object.assign(new RangeError("in"), { code: 7 });
    expect(faultOf(new Error("out", { cause }))).toMatchObject({ kind: "RangeError", code: "7" });
  });

  test("what is none says what it is", () => {
    expect(faultOf(SECRET)).toEqual({ kind: "string", code: "", where: "" });
    expect(faultOf(null)).toEqual({ kind: "object", code: "", where: "" });
    expect(faultOf(Object.assign(new Error("x"), { code: { secret: SECRET } })).code).toBe("");
  });
});
