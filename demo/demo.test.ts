import { describe, expect, test } from "vitest";
import { parseMessage } from "@/core/mail";
import { generate } from "./generate";
import { pastOf } from "./past";

const NOW = new Date("2026-11-24T12:00:00Z");
const world = [...generate({ messages: 1500, seed: 7, now: NOW })];

describe("the demo world", () => {
  test("is the same for the same seed, and another for another", () => {
    const again = [...generate({ messages: 1500, seed: 7, now: NOW })];
    expect(again.map((m) => Buffer.from(m.raw).toString("latin1"))).toEqual(
      world.map((m) => Buffer.from(m.raw).toString("latin1")),
    );
    expect([...generate({ messages: 20, seed: 8, now: NOW })].map((m) => m.sender)).not.toEqual(
      world.slice(0, 20).map((m) => m.sender),
    );
  });

  test("has a fresh inbox with neglected mail in it, and nothing from the future", () => {
    const inbox = world.filter((m) => m.folder === "Inbox");
    expect(inbox).toHaveLength(400);
    const days = inbox.map((m) => (NOW.getTime() - m.date.getTime()) / 86_400_000);
    expect(Math.min(...days)).toBeGreaterThanOrEqual(0);
    expect(days.filter((d) => d > 7).length).toBeGreaterThan(40);
    expect(Math.max(...world.map((m) => (NOW.getTime() - m.date.getTime()) / 86_400_000))).toBeGreaterThan(600);
  });

  test("is clean mail of real variety, from made-up addresses only", async () => {
    const parsed = await Promise.all(world.map((m) => parseMessage(m.raw, { now: NOW })));
    const flawed = parsed.filter((p) => p.flaws.length > 0);
    expect(flawed.map((p) => [p.subject, p.flaws])).toEqual([]);
    for (const { from, to } of parsed) for (const { address } of [from, ...to]) expect(address).toMatch(/\.example$/);
    const source = world.map((m) => Buffer.from(m.raw).toString("latin1")).join("");
    for (const kind of [
      "application/pdf",
      "text/csv",
      "text/calendar",
      "text/vcard",
      "message/rfc822",
      "multipart/related",
      "multipart/report",
      "List-Unsubscribe-Post",
      "Auto-Submitted",
      "iso-8859-1",
      "windows-1252",
      "8bit",
      "base64",
    ])
      expect(source).toContain(kind);
    // Twenty in a row do not repeat a subject.
    const subjects = world
      .filter((m) => m.folder === "Inbox")
      .map((m) => /^Subject: (.*)$/m.exec(Buffer.from(m.raw).toString("latin1"))?.[1]);
    let repeats = 0;
    for (let i = 0; i + 20 <= 380; i += 20)
      repeats += 20 - new Set(subjects.slice(i, i + 20).map((s) => s?.replace(/^Re: /, ""))).size;
    expect(repeats / 19).toBeLessThan(4);
  });
});

describe("the demo's past", () => {
  const past = pastOf(world, NOW, 7);
  test("puts all filed mail where it is, once, after it came and before now, on workdays", () => {
    const filed = world.filter(({ folder }) => !["Inbox", "Sent", "Drafts", "Junk"].includes(folder));
    const folders = new Map(past.flatMap(({ folder, messages }) => messages.map((id) => [id, folder] as const)));
    expect(past.reduce((sum, { messages }) => sum + messages.length, 0)).toBe(filed.length);
    expect(folders).toEqual(new Map(filed.map(({ messageId, folder }) => [messageId, folder])));
    const dates = new Map(filed.map(({ messageId, date }) => [messageId, date.getTime()]));
    for (const { at, messages } of past) {
      expect(Date.parse(at)).toBeLessThanOrEqual(NOW.getTime());
      for (const id of messages) expect(Date.parse(at)).toBeGreaterThan(dates.get(id)!);
      expect([0, 6]).not.toContain(new Date(at).getUTCDay());
    }
    expect(past.map(({ at }) => at)).toEqual(past.map(({ at }) => at).sort());
    expect(past.some(({ messages }) => messages.length > 1)).toBe(true);
  });
  test("is the same for the same seed", () => {
    expect(pastOf(world, NOW, 7)).toEqual(past);
    expect(pastOf(world, NOW, 8)).not.toEqual(past);
  });
});
