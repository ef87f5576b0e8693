import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { applyEdits, changeOfMessages, editsBetween, sameState, type Change, type MessageState } from "@/core/change";
import { folderId, messageId, runId, type MessageId, type RunId } from "@/core/id";
import { plan, type Step } from "@/core/macro";
import type { Directory } from "@/core/place";
import { Mailbox } from "./mailbox";
import type { Decision } from "./decision";
import { Settler } from "./settle";
import { columnRow, sentColumns } from "../../../tests/fixtures/columns";

const directory: Directory = {
  folders: [
    { id: folderId(1), path: "Inbox", role: "inbox" },
    { id: folderId(2), path: "Archive", role: "archive" },
    { id: folderId(3), path: "Trash", role: "trash" },
  ],
  labels: [],
  markers: [],
};
const AT = "2026-11-24T12:00:00.000Z";
const COUNT = 4;

/** The server: plans again on its own truth, in the order it hears. */
class Server {
  readonly states = new Map<MessageId, MessageState>();
  write(steps: readonly Step[], ids: readonly number[]): Change {
    const planned = plan(
      { steps },
      ids.map((id) => ({ id: messageId(id), state: this.states.get(messageId(id))! })),
      {},
      { directory, now: new Date(AT), zone: "UTC" },
    );
    if (!planned.ok) throw new Error("the steps cannot run");
    for (const [id, edits] of planned.plan.change.messages)
      this.states.set(id, applyEdits(this.states.get(id)!, edits));
    return planned.plan.change;
  }
}

const steps = fc.constantFrom<readonly Step[]>(
  [{ do: "toggle read" }],
  [{ do: "archive" }],
  [{ do: "trash" }, { do: "read" }],
  [{ do: "pin" }],
  [{ do: "unread" }, { do: "unpin" }],
);
const target = fc.subarray([1, 2, 3, 4], { minLength: 1 });
type Move =
  | { readonly what: "decide" | "foreign"; readonly steps: readonly Step[]; readonly ids: readonly number[] }
  | { readonly what: "hear" | "refuse" };
const move: fc.Arbitrary<Move> = fc.oneof(
  fc.record({ what: fc.constantFrom("decide" as const, "foreign" as const), steps, ids: target }),
  fc.record({ what: fc.constantFrom("hear" as const, "hear" as const, "refuse" as const) }),
);

describe("the view and the server", () => {
  test("agree once everything has been heard, whatever came between", () => {
    fc.assert(
      fc.property(fc.array(move, { maxLength: 25 }), (moves) => {
        const mailbox = new Mailbox();
        mailbox.merge(sentColumns(Array.from({ length: COUNT }, (_, i) => columnRow(i + 1))));
        const server = new Server();
        for (let id = 1; id <= COUNT; id++) server.states.set(messageId(id), mailbox.state(messageId(id))!);
        const settler = new Settler(mailbox, () => ({ directory, zone: "UTC" }));
        const sent: Extract<Decision, { kind: "run" }>[] = [];
        let n = 0;
        const id = () => runId(`00000000-0000-4000-8000-${String(++n).padStart(12, "0")}`);
        const hear = () => {
          const next = sent.shift();
          if (next) settler.arrive(next.id, "run", server.write(next.macro.steps, next.ids));
        };
        for (const m of moves) {
          if (m.what === "decide") {
            const decision = {
              kind: "run" as const,
              id: id(),
              at: AT,
              macro: { name: "x", steps: m.steps },
              ids: m.ids,
              answers: {},
              about: "",
            };
            settler.decide(decision);
            sent.push(decision);
          } else if (m.what === "foreign") settler.arrive(id(), "run", server.write(m.steps, m.ids));
          else if (m.what === "refuse") {
            const refused = sent.shift();
            if (refused) settler.refuse(refused.id);
          } else hear();
          // At any time the view is the truth with the waiting decisions on top.
          const ahead = new Server();
          for (const [key, state] of server.states) ahead.states.set(key, state);
          for (const decision of sent) ahead.write(decision.macro.steps, decision.ids);
          for (const [key, state] of ahead.states) expect(sameState(mailbox.state(key)!, state)).toBe(true);
        }
        while (sent.length > 0) hear();
        expect(settler.onItsWay).toEqual([]);
        for (const [key, state] of server.states) expect(sameState(mailbox.state(key)!, state)).toBe(true);
      }),
      { numRuns: 800 },
    );
  });

  test("agree too where the window reads anew what it then hears no news of", () => {
    const happening = fc.oneof(
      fc.record({ what: fc.constantFrom("decide" as const, "foreign" as const), steps, ids: target }),
      fc.record({ what: fc.constantFrom("write", "write", "answer", "news", "news", "reread") }),
    );
    fc.assert(
      fc.property(fc.array(happening, { maxLength: 30 }), (happenings) => {
        const mailbox = new Mailbox();
        mailbox.merge(sentColumns(Array.from({ length: COUNT }, (_, i) => columnRow(i + 1))));
        const settler = new Settler(mailbox, () => ({ directory, zone: "UTC" }));
        const server = new Server();
        for (let id = 1; id <= COUNT; id++) server.states.set(messageId(id), mailbox.state(messageId(id))!);
        const sent: Extract<Decision, { kind: "run" }>[] = [];
        const answers: { readonly id: RunId; readonly seq: number }[] = [];
        const news: { readonly id: RunId; readonly seq: number; readonly change: Change }[] = [];
        let seq = 0;
        let through = 0;
        let n = 0;
        const id = () => runId(`00000000-0000-4000-8000-${String(++n).padStart(12, "0")}`);
        const tell = (run: RunId, change: Change) => news.push({ id: run, seq: ++seq, change });
        const happen = {
          write: () => {
            const next = sent.shift();
            if (!next) return;
            tell(next.id, server.write(next.macro.steps, next.ids));
            answers.push({ id: next.id, seq });
          },
          answer: () => {
            const next = answers.shift();
            if (next) settler.written(next.id, next.seq);
          },
          news: () => {
            const next = news.shift();
            if (!next || next.seq <= through) return;
            settler.arrive(next.id, "run", next.change);
            settler.holds((through = next.seq));
          },
          reread: () => {
            settler.mergeTruth(() => {
              const read = [...server.states].map(
                ([id, state]) => [id, editsBetween(mailbox.state(id)!, state)] as const,
              );
              mailbox.apply(changeOfMessages(read, []));
            });
            settler.holds((through = seq));
          },
        };
        for (const one of happenings) {
          if (one.what === "decide" && "steps" in one) {
            const { ids, steps: meant } = one;
            const macro = { name: "x", steps: meant };
            const decision = { kind: "run" as const, id: id(), at: AT, macro, ids, answers: {}, about: "" };
            settler.decide(decision);
            sent.push(decision);
          } else if ("steps" in one) tell(id(), server.write(one.steps, one.ids));
          else happen[one.what as keyof typeof happen]();
        }
        while (sent.length > 0) happen.write();
        while (news.length > 0) happen.news();
        while (answers.length > 0) happen.answer();
        expect(settler.onItsWay).toEqual([]);
        for (const [key, state] of server.states) expect(mailbox.state(key)).toEqual(state);
      }),
      { numRuns: 800 },
    );
  });
});
