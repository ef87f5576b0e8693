import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { arbCondition, arbPlain, holds, NOW, written, ZONE, type Plain } from "../../../tests/fixtures/evaluator";
import { accountOf, plausible } from "../../../tests/fixtures/evaluator-rows";
import { directory, stateWith } from "../../../tests/fixtures/macro";
import { messageId } from "../id";
import { fold, TRAIT } from "../narrow";
import { plan, type Facts, type PlanMessage } from ".";

/** A message as the planner is given it. */
function messageOf(m: Plain): PlanMessage {
  const flagged = m.is.includes("flagged");
  const has = (name: keyof typeof TRAIT) => (m.is as readonly string[]).includes(name);
  const texts = {
    from: `${m.from} ${m.fromAddress}`,
    to: m.to,
    cc: m.cc,
    via: m.via,
    file: m.file,
    list: m.list,
    subject: m.subject,
  };
  const facts: Facts = {
    fromName: m.from,
    fromAddress: m.fromAddress,
    subject: m.subject,
    list: m.list,
    account: accountOf(m.account),
    dateMs: Date.parse(m.date),
    size: m.size,
    traits: (Object.keys(TRAIT) as (keyof typeof TRAIT)[]).reduce(
      (sum, name) => sum + (has(name) ? TRAIT[name] : 0),
      0,
    ),
    text: (field) => fold(texts[field]),
    body: m.body,
    tasks: m.tasks.map((due) => (due === null ? NaN : Date.parse(due))),
  };
  const state = stateWith({
    folder: directory.folders.find((folder) => folder.path === m.folder)!.id,
    read: m.is.includes("read"),
    pin: m.is.includes("pinned"),
    owed: m.is.includes("owed"),
    flag: flagged ? { start: null, due: m.due, note: null } : null,
    marker: directory.markers.find((marker) => marker.letter === m.marker)?.id ?? null,
    labels: directory.labels.filter((label) => m.labels.includes(label.name)).map((label) => label.id),
    note: m.note || null,
    defer: m.comesBack,
    back: m.is.includes("returned") ? m.date : null,
    await: m.is.includes("awaited") ? m.date : null,
  });
  return { id: messageId(m.id), state, facts };
}

const arbMessages = fc
  .array(arbPlain, { minLength: 6, maxLength: 6 })
  .map((all) => all.map((one, i) => plausible(one, i + 1)));
const MARK = "met by the condition";
const context = { directory, now: NOW, zone: ZONE };

describe("conditions in macros", () => {
  test("mean the same as on the narrow line, for several messages at once", () => {
    fc.assert(
      fc.property(arbMessages, arbCondition, (messages, condition) => {
        const narrow = written(condition);
        const wanted = messages.filter((m) => holds(condition, m)).map((m) => m.id);
        const all = messages.map(messageOf);
        const touched = (steps: Parameters<typeof plan>[0]) => {
          const planned = plan(steps, all, {}, context);
          if (!planned.ok) throw new Error(`${narrow}: ${JSON.stringify(planned.problems)}`);
          return [...planned.plan.change.messages.keys()];
        };
        const note = { do: "note", text: MARK } as const;
        expect(touched({ steps: [{ do: "only when", narrow }, note] }), narrow).toEqual(wanted);
        expect(touched({ steps: [{ do: "if", narrow, then: [note], else: [] }] })).toEqual(wanted);
        expect(touched({ steps: [note], settings: { for: narrow } })).toEqual(wanted);
      }),
      { numRuns: 700 },
    );
  });

  test("look at the message as the steps so far have left it", () => {
    fc.assert(
      fc.property(arbMessages, (messages) => {
        const steps = [
          { do: "move", to: "Junk" },
          { do: "toggle read" },
          { do: "label", toggle: "Invoice" },
          { do: "owe" },
          { do: "defer", until: "2026-11-25" },
          { do: "flag", due: "today" },
          { do: "marker", set: "W" },
          { do: "note", text: "Hut beds" },
        ] as const;
        const left = (m: Plain): Plain => ({
          ...m,
          folder: "Junk",
          is: [
            ...m.is.filter((one) => !["read", "owed", "flagged"].includes(one)),
            ...(m.is.includes("read") ? [] : (["read"] as const)),
            "owed",
            "flagged",
          ],
          labels: m.labels.includes("Invoice") ? m.labels.filter((one) => one !== "Invoice") : [...m.labels, "Invoice"],
          comesBack: "2026-11-25T08:00:00.000Z",
          due: "2026-11-24T08:00:00.000Z",
          marker: "W",
          note: "Hut beds",
        });
        for (const narrow of [
          "unread",
          "label=Invoice",
          "folder=Junk",
          "owed & deferred=tomorrow",
          "due=today marker=W",
          "note~hut",
        ]) {
          const planned = plan(
            { steps: [...steps, { do: "only when", narrow }, { do: "pin" }] },
            messages.map(messageOf),
            {},
            context,
          );
          if (!planned.ok) throw new Error("cannot run");
          const condition = {
            unread: { kind: "is", state: "unread" },
            "label=Invoice": { kind: "named", field: "label", op: "=", value: "Invoice" },
          }[narrow] as Parameters<typeof holds>[0] | undefined;
          const wanted = messages.filter(
            (m) => !m.is.includes("pinned") && (condition ? holds(condition, left(m)) : true),
          );
          const pinned = [...planned.plan.change.messages].filter(([, edits]) =>
            edits.some((edit) => edit.kind === "pin"),
          );
          expect(
            pinned.map(([id]) => id),
            narrow,
          ).toEqual(wanted.map((m) => m.id));
        }
      }),
      { numRuns: 60 },
    );
  });
});
