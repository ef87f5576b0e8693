import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { context, directory, planOne } from "../../../tests/fixtures/macro";
import { checkMacro, recordSteps, STEP_KINDS, type Finding, type Settings, type Step, type StepKind } from ".";

const found = (steps: readonly Step[], settings: Settings = {}): Finding[] => checkMacro({ steps, settings }, context);
const codes = (steps: readonly Step[], settings?: Settings) => found(steps, settings).map((f) => `${f.code} ${f.path}`);

describe("the check", () => {
  const cases: [string, Step[], string[]][] = [
    ["nothing to say", [{ do: "read" }, { do: "archive" }], []],
    ["no steps", [], ["no-steps 0"]],
    ["steps after a stop", [{ do: "stop" }, { do: "read" }, { do: "pin" }], ["unreachable 2", "unreachable 3"]],
    [
      "a label after delete",
      [{ do: "delete for good" }, { do: "label", add: "Invoice" }],
      ["flag-goes 1", "after-delete 2"],
    ],
    [
      "two moves",
      [{ do: "move", to: "Archive" }, { do: "read" }, { do: "move", to: "Bookings/Groups" }],
      ["moved-twice 3"],
    ],
    [
      "two moves with a condition between, which may look at the first",
      [{ do: "archive" }, { do: "only when", narrow: "folder=Archive" }, { do: "trash" }],
      [],
    ],
    ["a flag lost with a trash", [{ do: "flag" }, { do: "trash" }], ["flag-lost 2"]],
    ["read, then unread", [{ do: "read" }, { do: "unread" }], ["overwritten 2"]],
    [
      "a label put on and taken off",
      [
        { do: "label", add: "Invoice" },
        { do: "label", remove: "invoice" },
      ],
      ["overwritten 2"],
    ],
    [
      "a task and its message deleted",
      [{ do: "make task" }, { do: "delete for good" }],
      ["task-copy 2", "flag-goes 2"],
    ],
    ["a task and its message in trash", [{ do: "make task" }, { do: "trash" }], ["task-copy 2"]],
    [
      "marks of all kinds that go out of sight",
      [
        { do: "label", add: "Invoice" },
        { do: "marker", set: "R" },
        { do: "owe" },
        { do: "note", text: "beds" },
        { do: "pin" },
        { do: "trash" },
      ],
      ["flag-lost 6", "flag-lost 6", "flag-lost 6", "flag-lost 6", "flag-lost 6"],
    ],
    [
      "marks taken off before it goes out of sight",
      [{ do: "label", remove: "Invoice" }, { do: "marker", clear: true }, { do: "unflag" }, { do: "junk" }],
      [],
    ],
    ["deferred, then archived", [{ do: "defer", until: "+1d" }, { do: "archive" }], ["deferral-lost 2"]],
    ["archived, then deferred", [{ do: "archive" }, { do: "defer", until: "+1d" }], []],
    [
      "deferred, archived, and trashed: said of the first",
      [{ do: "defer", until: "+1d" }, { do: "archive" }, { do: "read" }, { do: "trash" }],
      ["deferral-lost 2", "moved-twice 4"],
    ],
    [
      "a move after a branch that moved",
      [{ do: "if", narrow: "unread", then: [{ do: "archive" }] }, { do: "read" }, { do: "trash" }],
      ["moved-in-branch 3"],
    ],
    [
      "a move after a branch that moved and stopped",
      [{ do: "if", narrow: "unread", then: [{ do: "archive" }, { do: "stop" }] }, { do: "trash" }],
      [],
    ],
    [
      "a move after a branch that moved and a condition that looks at it",
      [
        { do: "if", narrow: "unread", then: [{ do: "archive" }] },
        { do: "only when", narrow: "folder=Inbox" },
        { do: "trash" },
      ],
      [],
    ],
    ["deleting what is not flagged", [{ do: "only when", narrow: "!flagged" }, { do: "delete for good" }], []],
    ["deleting what was unflagged", [{ do: "unflag" }, { do: "delete for good" }], []],
    ["a missing folder", [{ do: "move", to: "Gone" }], ["no-folder 1"]],
    [
      "a missing folder in a branch",
      [{ do: "if", narrow: "unread", then: [{ do: "copy", to: "Gone" }] }],
      ["no-folder 1.1"],
    ],
    ["a condition that cannot be read", [{ do: "only when", narrow: "form~x" }, { do: "read" }], ["bad-condition 1"]],
    ["empty branches", [{ do: "if", narrow: "unread", then: [] }, { do: "read" }], ["empty-branches 1"]],
    [
      "both ways end",
      [{ do: "if", narrow: "unread", then: [{ do: "stop" }], else: [{ do: "stop" }] }, { do: "read" }],
      ["unreachable 2"],
    ],
    [
      "two questions of one name",
      [
        { do: "ask", name: "a", kind: "text" },
        { do: "ask", name: "a", kind: "date" },
      ],
      ["asked-twice 2"],
    ],
  ];
  test.each(cases)("%s", (_name, steps, expected) => expect(codes(steps)).toEqual(expected));

  test("a macro that may run unattended does not ask, agree or write by itself", () => {
    const steps: Step[] = [{ do: "move", to: { ask: "folder" } }, { do: "reply" }, { do: "delete for good" }];
    expect(codes(steps, { unattended: true })).toEqual([
      "flag-goes 3",
      "question-unattended 1",
      "needs-writer 2",
      "confirm-unattended 3",
    ]);
    const [finding] = found([{ do: "note", text: { ask: "text" } }], { unattended: true });
    expect(finding!.repairs).toEqual([{ text: expect.any(String), settings: {} }]);
  });

  const weight = (steps: readonly Step[]) =>
    found(steps).reduce((sum, { severity }) => sum + (severity === "stops" ? 10 : 1), 0);
  test("every repair of steps leaves less to find", () => {
    for (const [, steps] of cases)
      for (const finding of found(steps))
        for (const repair of finding.repairs)
          if ("steps" in repair && repair.steps.length > 0)
            expect(weight(repair.steps), `${finding.text} → ${repair.text}`).toBeLessThan(weight(steps));
  });

  test("offers to make what is missing, or to ask for it", () => {
    expect(found([{ do: "move", to: "Gone" }])[0]!.repairs).toEqual([
      { text: "Make the folder Gone", make: "folder", name: "Gone" },
      { text: "Ask each time", steps: [{ do: "move", to: { ask: "folder" } }] },
      { text: "Take step 1 out", steps: [] },
    ]);
  });

  test("offers every way out of a deferral that is lost, and of a second move", () => {
    const texts = (steps: readonly Step[], code: string) =>
      found(steps)
        .find((finding) => finding.code === code)!
        .repairs.map((repair) => ("steps" in repair ? [repair.text, repair.steps] : repair.text));
    const defer = { do: "defer", until: "+1d" } as const;
    expect(texts([defer, { do: "read" }, { do: "archive" }], "deferral-lost")).toEqual([
      ["Put step 1 after step 3", [{ do: "read" }, { do: "archive" }, defer]],
      ["Take step 1 out", [{ do: "read" }, { do: "archive" }]],
    ]);
    const branch: Step = { do: "if", narrow: "unread", then: [{ do: "archive" }] };
    expect(texts([branch, { do: "trash" }], "moved-in-branch")).toEqual([
      ["Take step 2 out", [branch]],
      ["Only where step 1 does not move it", [{ ...branch, else: [{ do: "trash" }] }]],
    ]);
    expect(texts([{ do: "pin" }, { do: "trash" }], "flag-lost")).toEqual([
      ["Take step 1 out", [{ do: "trash" }]],
      ["Archive instead", [{ do: "pin" }, { do: "archive" }]],
    ]);
    expect(texts([{ do: "delete for good" }], "flag-goes")).toEqual([
      ["Only where nothing is flagged", [{ do: "only when", narrow: "!flagged" }, { do: "delete for good" }]],
    ]);
  });

  /** Any steps, sensible or not. */
  const arbStep: fc.Arbitrary<Step> = fc.letrec<{ step: Step }>((tie) => ({
    step: fc.oneof(
      { depthSize: "small", withCrossShrink: true },
      fc.constantFrom<Step>(
        { do: "move", to: "Bookings/Groups" },
        { do: "move", to: "Gone" },
        { do: "move", to: { take: "domain" } },
        { do: "label", add: "Invoice" },
        { do: "label", add: "None" },
        { do: "marker", set: "Z" },
        { do: "flag", due: "someday" },
        { do: "flag", due: { take: "date in text" } },
        { do: "only when", narrow: "from~ok" },
        { do: "only when", narrow: "(" },
        { do: "note", text: { pattern: "(", in: "text" } },
        { do: "run macro", macro: "Other" },
        { do: "delete for good" },
        { do: "make task" },
        { do: "defer", until: "+1d" },
        { do: "trash" },
        { do: "stop" },
        { do: "reply" },
      ),
      fc.record({
        do: fc.constant("if" as const),
        narrow: fc.constant("unread"),
        then: fc.array(tie("step"), { maxLength: 2 }),
      }),
    ),
  })).step;
  const folders = new Set<number>(directory.folders.map((f) => f.id));

  test("a macro it lets run never plans anything impossible", () => {
    let ran = 0;
    fc.assert(
      fc.property(fc.array(arbStep, { maxLength: 5 }), (steps) => {
        if (found(steps).some((f) => f.severity === "stops")) return;
        ran++;
        const planned = planOne(steps);
        for (const edits of planned.change.messages.values())
          for (const edit of edits) {
            if (edit.kind === "folder") expect(folders.has(edit.after)).toBe(true);
            if (edit.kind === "label") expect([1, 2]).toContain(edit.label);
          }
        expect(planned.asks).toEqual([]);
      }),
      { numRuns: 1500 },
    );
    expect(ran).toBeGreaterThan(100);
  });

  test("every kind of step says how it is taken back and where it belongs", () => {
    for (const kind of Object.keys(STEP_KINDS) as StepKind[])
      expect(STEP_KINDS[kind], kind).toMatchObject({ title: expect.any(String), undo: expect.any(String) });
  });
});

describe("the recorder", () => {
  const record = (actions: [string, Step[], Record<string, string>?][], undone: string[] = []) =>
    recordSteps(
      actions.map(([id, steps, answers = {}]) => ({ id, steps, answers })),
      new Set(undone),
    );
  test("keeps what was done last, drops what was undone, and moves the move to the end", () => {
    const { steps } = record(
      [
        ["a", [{ do: "archive" }]],
        ["b", [{ do: "read" }, { do: "label", add: "Invoice" }]],
        ["c", [{ do: "pin" }]],
        ["d", [{ do: "label", add: "invoice" }, { do: "unread" }]],
      ],
      ["c"],
    );
    expect(steps).toEqual([{ do: "label", add: "invoice" }, { do: "unread" }, { do: "archive" }]);
  });
  test("what was chosen stays fixed, and is named", () => {
    const question = { ask: "folder" as const, prompt: "File to which folder?" };
    const recorded = record([["a", [{ do: "move", to: question }, { do: "read" }], { "1.to": "Bookings/Groups" }]]);
    expect(recorded.steps).toEqual([{ do: "read" }, { do: "move", to: "Bookings/Groups" }]);
    expect(recorded.choices).toEqual([{ path: "2", param: "to" }]);
  });
  test("an answer takes the place of its question, unless a condition still looks at it", () => {
    const ask: Step = { do: "ask", name: "sure", kind: "yes/no" };
    const where: Step = { do: "ask", name: "where", kind: "folder" };
    const answers = { "ask:sure": "yes", "ask:where": "Archive" };
    const condition: Step = { do: "only when", answer: "sure" };
    const { steps } = record([["a", [ask, where, condition, { do: "copy", to: { answer: "where" } }], answers]]);
    expect(steps).toEqual([ask, condition, { do: "copy", to: "Archive" }]);
    expect(found(steps).filter((finding) => finding.severity === "stops")).toEqual([]);
  });
  test("of markers that were set the last stays, of the next ones each", () => {
    const set = (letter: string): Step => ({ do: "marker", set: letter });
    const next: Step = { do: "marker", next: true };
    expect(record([["a", [set("R"), set("W")]]]).steps).toEqual([set("W")]);
    expect(record([["a", [next, next]]]).steps).toEqual([next, next]);
    expect(record([["a", [set("R"), { do: "marker", clear: true }]]]).steps).toEqual([{ do: "marker", clear: true }]);
  });
  test("two toggles of one thing are two toggles", () => {
    expect(
      record([
        ["a", [{ do: "toggle read" }]],
        ["b", [{ do: "toggle read" }]],
      ]).steps,
    ).toHaveLength(2);
  });
});
