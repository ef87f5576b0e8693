import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { context, factsWith, stateWith } from "../../../tests/fixtures/macro";
import { applyEdits, type MessageState } from "../change";
import { messageId } from "../id";
import { docOfText, plainOf } from "../letter";
import {
  blanksIn,
  checkMacro,
  fillNow,
  letterPlanText,
  plan,
  readBlank,
  type Answers,
  type Plan,
  type Step,
  type Template,
} from ".";

const ID = messageId(1);
const THANKS: Template = {
  name: "Thanks",
  subject: "",
  body: docOfText("Hello {first name = friend}, until {date +3d}. {ask Which hut? = Tarn Hut}"),
};
const NUMBER: Template = { name: "Number", subject: "Ref {captured ref (\\d+)}", body: docOfText("x") };
const WRONG: Template = { name: "Wrong", subject: "", body: docOfText("{shoe size}") };
const CONTEXT = { ...context, templates: [THANKS, NUMBER, WRONG] };

function planOf(steps: readonly Step[], state: MessageState, after: string | null = null, answers: Answers = {}): Plan {
  const message = { id: ID, state, facts: factsWith({ body: "about ref 4711" }) };
  const planned = plan({ steps }, [message], answers, CONTEXT, after);
  if (!planned.ok) throw new Error(planned.problems.map(({ code, path }) => `${code} ${path}`).join(", "));
  return planned.plan;
}
const after = (state: MessageState, { change }: Plan): MessageState => applyEdits(state, change.messages.get(ID) ?? []);

const plainStep: fc.Arbitrary<Step> = fc.constantFrom<Step>(
  { do: "read" },
  { do: "unread" },
  { do: "pin" },
  { do: "owe" },
  { do: "archive" },
  { do: "flag", due: "+3d" },
  { do: "marker", next: true },
  { do: "label", toggle: "Invoice" },
  { do: "await an answer", for: "+5d" },
);
const waits = { do: "reply" } as const satisfies Step;
const goes = { do: "reply", goes: "owed" } as const satisfies Step;
const inBranch = (steps: readonly Step[]): fc.Arbitrary<Step> =>
  fc.constantFrom<Step>(
    ...steps,
    { do: "if", narrow: "unread", then: steps, else: [{ do: "read" }] },
    { do: "if", narrow: "read", then: [{ do: "pin" }], else: steps },
  );
const someSteps = fc.array(plainStep, { maxLength: 3 });

describe("a run that waits", () => {
  test("the whole is what is planned up to the letter, and then what is planned behind it", () => {
    fc.assert(
      fc.property(
        someSteps,
        fc.tuple(someSteps, someSteps).chain(([before, behind]) => inBranch([...before, waits, ...behind])),
        someSteps,
        fc.boolean(),
        (before, middle, behind, read) => {
          const state = stateWith({ read });
          const steps = [...before, middle, ...behind];
          const first = planOf(steps, state);
          const [pause] = first.pauses;
          if (!pause) return;
          const between = after(state, first);
          const second = planOf(steps, between, pause.at);
          expect(second.pauses).toEqual([]);
          expect(second.things).toEqual([]);
          // The oracle: the same steps with one that makes its letter and goes on. Owing is undone by hand.
          const asOne = (list: readonly Step[]): readonly Step[] =>
            list.map((step) =>
              step === waits
                ? goes
                : step.do === "if"
                  ? { ...step, then: asOne(step.then), ...(step.else ? { else: asOne(step.else) } : {}) }
                  : step,
            );
          const whole = after(state, planOf(asOne(steps), state));
          const { owed: _, ...rest } = after(between, second);
          const { owed: __, ...expected } = whole;
          expect(rest).toEqual(expected);
        },
      ),
      { numRuns: 400 },
    );
  });

  test("in a macro that another one runs it goes on inside, and then behind it", () => {
    const inner: Step[] = [{ do: "read" }, waits, { do: "pin" }];
    const macros = [{ name: "Inner", steps: inner, settings: { for: "unread" } }];
    const steps: Step[] = [{ do: "run macro", macro: "Inner" }, { do: "archive" }];
    const state = stateWith({ read: false });
    const message = (now: MessageState) => [{ id: ID, state: now, facts: factsWith({}) }];
    const first = plan({ steps }, message(state), {}, { ...CONTEXT, macros });
    if (!first.ok) throw new Error("not planned");
    expect(first.plan.pauses).toEqual([{ message: ID, at: "1.run.2" }]);
    const now = after(state, first.plan);
    expect([now.read, now.pin]).toEqual([true, false]);
    // That the macro was for what is unread was decided before.
    const second = plan({ steps }, message(now), {}, { ...CONTEXT, macros }, "1.run.2");
    if (!second.ok) throw new Error("not planned");
    const done = after(now, second.plan);
    expect([done.pin, done.folder === now.folder]).toEqual([true, false]);
  });
});

describe("letters", () => {
  const letters = (steps: readonly Step[], answers: Answers = {}) => {
    const { things, asks, skipped } = planOf(steps, stateWith({ owed: true }), null, answers);
    return { letters: things.flatMap((thing) => (thing.kind === "letter" ? [thing.letter] : [])), asks, skipped };
  };
  test("a template is filled in for the message; what is asked once has a usual answer", () => {
    const steps: Step[] = [{ do: "reply", template: "Thanks", prefix: "[huts] ", send: "+2h", sent: "Archive" }];
    const asked = letters(steps);
    expect(asked.asks.map(({ prompt, message }) => [prompt, message])).toEqual([["Which hut?", null]]);
    const { letters: made } = letters(steps, { [asked.asks[0]!.id]: "" });
    expect(made).toMatchObject([
      { how: "reply", goes: "outbox", at: "1", to: null, prefix: "[huts] ", sentToo: false },
    ]);
    expect(plainOf(made[0]!.filled!.body)).toMatch(/^Hello \w+, until \w+day \d+ \w+ 20\d\d\. Tarn Hut$/);
    expect(made[0]!.sendAt).toBe(new Date(context.now.getTime() + 2 * 3_600_000).toISOString());
    expect(made[0]!.sent).not.toBeNull();
    expect(letterPlanText(made[0]!)).toBe("sends a reply: Thanks");
  });
  test("what the message does not say is asked for it alone", () => {
    const { letters: told } = letters([{ do: "reply", template: "Number" }]);
    expect(told[0]!.filled!.subject).toBe("Ref 4711");
    const message = { id: ID, state: stateWith({}), facts: factsWith({ body: "nothing" }) };
    const planned = plan({ steps: [{ do: "reply", template: "Number" }] }, [message], {}, CONTEXT);
    expect(planned.ok && planned.plan.asks).toMatchObject([{ kind: "text", message: ID }]);
    expect(planned.ok && planned.plan.things).toEqual([]);
  });
  test("an answer ends what was owed; one that is put aside makes it owed; a new letter changes neither", () => {
    const owed = (step: Step, state: MessageState) => after(state, planOf([step], state)).owed;
    expect(owed({ do: "reply", template: "Number" }, stateWith({ owed: true }))).toBe(false);
    expect(owed({ do: "reply", goes: "owed" }, stateWith({}))).toBe(true);
    expect(owed({ do: "new message", to: "a@b.example", template: "Number" }, stateWith({ owed: true }))).toBe(true);
  });
  test.each<[string, Step, string]>([
    ["a template that is not there", { do: "reply", template: "Nowhere" }, "no-template 1"],
    ["nothing to be sent", { do: "reply", goes: "outbox" }, "nothing-written 1"],
    ["nobody it could go to", { do: "forward", to: "warden", goes: "outbox" }, "bad-address 1"],
    ["a value that is none", { do: "reply", template: "Wrong" }, "bad-blank 1"],
  ])("%s is said before anything runs", (_, step, problem) => expect(() => letters([step])).toThrow(problem));
  test("an address taken from the message that is none leaves the message alone", () => {
    const step: Step = { do: "forward", to: { take: "subject" }, goes: "outbox" };
    expect(letters([step]).skipped).toMatchObject([{ reason: "no-address" }]);
    expect(letters([{ do: "forward", to: "Ines <ines@larch.example>", goes: "outbox" }]).letters).toMatchObject([
      { how: "forward", to: "Ines <ines@larch.example>", filled: null },
    ]);
  });
});

describe("values in braces", () => {
  test.each([
    ["first name = friend", { kind: "computed", value: { take: "first name", else: "friend" } }],
    ["Subject", { kind: "computed", value: { take: "subject" } }],
    [
      "captured no. (\\d+) or",
      { kind: "computed", value: { pattern: "no. (?P<it>\\d+) or", group: "it", in: "text" } },
    ],
    ["captured \\(x\\)", { kind: "computed", value: { pattern: "\\(x\\)", in: "text" } }],
    ["ask Which hut?", { kind: "ask", prompt: "Which hut?", usual: undefined }],
    ["date +3d", { kind: "date", when: "+3d" }],
    ["today", { kind: "date", when: "today" }],
    ["shoe size", { kind: "unknown" }],
  ])("%j", (source, blank) => expect(readBlank(source)).toEqual(blank));
  test("without asking, what nobody knows yet stays to be filled in", () => {
    const filled = fillNow(THANKS, null, context);
    expect(plainOf(filled.body)).toMatch(/^Hello friend, until .* Tarn Hut$/);
    expect(fillNow(NUMBER, factsWith({ body: null }), context).subject).toBe("Ref {captured ref (\\d+)}");
    expect(fillNow(NUMBER, factsWith({ body: "ref 12" }), context).subject).toBe("Ref 12");
    expect(blanksIn({ subject: "{a} {b}", body: docOfText("{b} {c}\n{ }") })).toEqual(["a", "b", "c", " "]);
  });
});

describe("the check", () => {
  const codes = (steps: readonly Step[], settings = {}) =>
    checkMacro({ steps, settings }, CONTEXT).map(({ code, path }) => `${code} ${path}`);
  const sends = { do: "reply", template: "Number" } as const satisfies Step;
  test.each<[string, readonly Step[], readonly string[]]>([
    ["two letters that go by themselves", [sends, { do: "read" }, sends], ["sent-twice 3"]],
    ["one in each branch", [{ do: "if", narrow: "unread", then: [sends], else: [sends] }], []],
    ["an answer awaited to nothing", [{ do: "await an answer", for: "+3d" }], ["awaits-nothing 1"]],
    ["awaited to what is sent", [sends, { do: "await an answer", for: "+3d" }], []],
    ["awaited to what is written", [waits, { do: "await an answer", for: "+3d" }], []],
    ["an answer to what is deleted", [{ do: "delete for good" }, waits], ["after-delete 2", "flag-goes 1"]],
  ])("%s", (_, steps, expected) => expect(codes(steps).sort()).toEqual([...expected].sort()));
  test("a draft waits for somebody who is not there", () => {
    expect(codes([waits], { unattended: true })).toEqual(["needs-writer 1"]);
    expect(codes([sends], { unattended: true })).toEqual([]);
  });
});
