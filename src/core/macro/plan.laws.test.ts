import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { applyEdits, type MessageState } from "../change";
import { context, directory, stateWith } from "../../../tests/fixtures/macro";
import { folderId, labelId, markerId, messageId } from "../id";
import { checkSteps, plan, stepsSchema, stepsText, STEP_KINDS, textOfProblem, type Step, type StepKind } from ".";

const DUE = "2026-11-27T08:00:00.000Z";
const PASSED = "2026-11-20T08:00:00.000Z";
/** When all of it is run. */
const NOON = "2026-11-24T12:00:00.000Z";

const arbStep: fc.Arbitrary<Step> = fc.constantFrom<Step>(
  { do: "move", to: "Bookings/Groups" },
  { do: "copy", to: "Archive" },
  { do: "archive" },
  { do: "trash" },
  { do: "junk" },
  { do: "not junk" },
  { do: "read" },
  { do: "unread" },
  { do: "toggle read" },
  { do: "flag", due: "+3d", note: "beds" },
  { do: "unflag" },
  { do: "pin" },
  { do: "pin", until: "+3d" },
  { do: "unpin" },
  { do: "label", add: "Invoice" },
  { do: "label", remove: "invoice" },
  { do: "label", toggle: "Winter season" },
  { do: "marker", set: "W" },
  { do: "marker", next: true },
  { do: "marker", clear: true },
  { do: "note", text: "ring back" },
  { do: "defer", until: "+3d" },
  { do: "end deferral" },
  { do: "stop" },
);
const arbState: fc.Arbitrary<MessageState> = fc.record({
  folder: fc.integer({ min: 1, max: 5 }).map(folderId),
  read: fc.boolean(),
  flag: fc.constantFrom(null, { start: null, due: DUE, note: "beds" }, { start: null, due: null, note: null }),
  pin: fc.boolean(),
  marker: fc.constantFrom(null, markerId(1), markerId(2)),
  labels: fc.subarray([labelId(1), labelId(2)]),
  note: fc.constantFrom(null, "ring back", "old"),
  defer: fc.constantFrom(null, DUE, PASSED),
  back: fc.constantFrom(null, PASSED),
  await: fc.constant(null),
  hand: fc.constantFrom(null, "2026-11-27T08:00:00.000Z"),
  owed: fc.boolean(),
});

/** The oracle: each step as an assignment to a loose object, in the plainest way. */
function oracle(steps: readonly Step[], state: MessageState): MessageState {
  const s = { ...state, labels: new Set<number>(state.labels) };
  const flip = (id: number, on: boolean) => void (on ? s.labels.add(id) : s.labels.delete(id));
  for (const step of steps) {
    if (step.do === "stop") break;
    const places = ["move", "archive", "trash", "junk"];
    if (places.includes(step.do) || (step.do === "not junk" && s.folder === 4)) [s.defer, s.back] = [null, null];
    if (step.do === "move") s.folder = folderId(5);
    if (step.do === "archive") s.folder = folderId(2);
    if (step.do === "trash") s.folder = folderId(3);
    if (step.do === "junk") s.folder = folderId(4);
    if (step.do === "not junk" && s.folder === 4) s.folder = folderId(1);
    if (step.do === "defer") [s.defer, s.back] = [DUE, null];
    if (step.do === "end deferral") [s.defer, s.back] = [null, s.defer === PASSED ? PASSED : s.defer ? NOON : s.back];
    if (step.do === "flag") s.back = null;
    if (step.do === "read") s.read = true;
    if (step.do === "unread") s.read = false;
    if (step.do === "toggle read") s.read = !s.read;
    if (step.do === "flag") s.flag = { start: null, due: DUE, note: "beds" };
    if (step.do === "unflag") s.flag = null;
    if (step.do === "pin") [s.pin, s.hand] = [true, step.until ? DUE : null];
    if (step.do === "unpin") [s.pin, s.hand] = [false, null];
    if (step.do === "label" && step.toggle) flip(1, !s.labels.has(1));
    if (step.do === "label" && !step.toggle) flip(2, step.add !== undefined);
    if (step.do === "marker")
      s.marker = step.set
        ? markerId(2)
        : step.clear
          ? null
          : s.marker === null
            ? markerId(1)
            : s.marker === 1
              ? markerId(2)
              : null;
    if (step.do === "note") s.note = "ring back";
  }
  return { ...s, labels: [...s.labels].sort().map(labelId) };
}

describe("laws of the planner", () => {
  test("applying the plan is doing the steps one after another", () => {
    fc.assert(
      fc.property(
        fc.array(arbStep, { minLength: 1, maxLength: 8 }),
        fc.array(arbState, { minLength: 1, maxLength: 6 }),
        (steps, states) => {
          const messages = states.map((state, i) => ({ id: messageId(i + 1), state }));
          const planned = plan({ steps }, messages, {}, context);
          if (!planned.ok) throw new Error(planned.problems.map(textOfProblem).join());
          const skipped = new Set(planned.plan.skipped.map((skip) => skip.message));
          for (const { id, state } of messages) {
            const edits = planned.plan.change.messages.get(id) ?? [];
            expect(applyEdits(state, edits)).toEqual(oracle(steps, state));
            const copied = planned.plan.things.some((thing) => thing.source === id);
            expect(skipped.has(id)).toBe(edits.length === 0 && !copied);
          }
        },
      ),
      { numRuns: 2000 },
    );
  });

  test("planning again on the outcome of steps that do not toggle changes nothing", () => {
    // What ends a deferral does so once: a flag after it takes away what it left.
    const settled = arbStep.filter(
      (s) => !["toggle read", "copy", "not junk", "end deferral"].includes(s.do) && !("next" in s) && !("toggle" in s),
    );
    fc.assert(
      fc.property(fc.array(settled, { minLength: 1, maxLength: 6 }), arbState, (steps, state) => {
        const after = oracle(steps, state);
        const planned = plan({ steps }, [{ id: messageId(1), state: after }], {}, context);
        expect(planned.ok && planned.plan.change.messages.size).toBe(0);
      }),
    );
  });

  test("a copy is as the steps before it left the message", () => {
    const state = stateWith();
    const planned = plan(
      { steps: [{ do: "read" }, { do: "copy", to: "Archive" }, { do: "pin" }] },
      [{ id: messageId(1), state }],
      {},
      context,
    );
    expect(planned.ok && planned.plan.things).toEqual([
      { kind: "copy", source: 1, state: { ...state, read: true, folder: 2 } },
    ]);
  });
});

describe("what keeps a macro from running", () => {
  const problems = (steps: Step[]) => checkSteps({ steps }, context).problems.map(textOfProblem);
  test("is said by step, all of it at once", () => {
    expect(
      problems([
        { do: "read" },
        { do: "move", to: "Gone" },
        { do: "label", add: "None" },
        { do: "marker", set: "Z" },
        { do: "flag", due: "soonish" },
      ]),
    ).toEqual([
      expect.stringMatching(/^Step 2: .*"Gone"/),
      expect.stringMatching(/^Step 3: .*"None"/),
      expect.stringMatching(/^Step 4: .*"Z"/),
      expect.stringMatching(/^Step 5: .*soonish/),
    ]);
    expect(problems([])).toEqual([expect.stringMatching(/no steps/)]);
    expect(
      checkSteps({ steps: [{ do: "trash" }] }, { ...context, directory: { ...directory, folders: [] } }).problems,
    ).toMatchObject([{ code: "no-role", role: "trash" }]);
    expect(
      checkSteps({ steps: [{ do: "marker", next: true }] }, { ...context, directory: { ...directory, markers: [] } })
        .problems,
    ).toMatchObject([{ code: "no-markers" }]);
  });
  test("questions are asked until they are answered, and an answer is checked like a value", () => {
    const steps: Step[] = [
      { do: "move", to: { ask: "folder" } },
      { do: "flag", due: { ask: "date", prompt: "When?" } },
    ];
    const message = [
      {
        id: messageId(1),
        state: stateWith(),
      },
    ];
    const asks = plan({ steps }, message, {}, context);
    expect(asks.ok && asks.plan.asks.map((q) => [q.id, q.kind])).toEqual([
      ["1.to", "folder"],
      ["2.due", "date"],
    ]);
    expect(plan({ steps }, message, { "1.to": "Nowhere", "2.due": "+1d" }, context)).toMatchObject({
      ok: false,
      problems: [{ code: "no-folder" }],
    });
    const done = plan({ steps }, message, { "1.to": "archive", "2.due": "+1d" }, context);
    expect(done.ok && done.plan.change.messages.size).toBe(1);
  });
});

describe("steps as they are written", () => {
  test("every kind has a fresh step that the schema takes", () => {
    for (const kind of Object.keys(STEP_KINDS) as StepKind[])
      expect(stepsSchema.parse([STEP_KINDS[kind].fresh])[0]!.do).toBe(kind);
  });
  test.each([
    [{ do: "fly" }],
    [{ do: "label" }],
    [{ do: "label", add: "a", remove: "b" }],
    [{ do: "marker", set: "R", clear: true }],
    [{ do: "read", extra: 1 }],
    [{ do: "move" }],
    [{ do: "move", to: { ask: "date" } }],
  ])("refuses %j", (step) => {
    expect(stepsSchema.safeParse([step]).success).toBe(false);
  });
  test("in words", () => {
    expect(
      stepsText([
        { do: "label", add: "Winter season" },
        { do: "flag", due: "+3d" },
        { do: "move", to: { ask: "folder" } },
      ]),
    ).toBe("label add Winter season · flag due +3d · move ask folder");
    const branches = { then: [{ do: "read" }, { do: "archive" }], else: [{ do: "junk" }] } as const;
    expect(stepsText([{ do: "if", narrow: "unread", ...branches }, { do: "stop" }])).toBe(
      "if unread: read, archive; else junk · stop",
    );
    expect(stepsText([{ do: "if", answer: "urgent", then: [], else: [] }])).toBe("if “urgent” is yes: nothing");
  });
});
