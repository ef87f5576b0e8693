import { describe, expect, test } from "vitest";
import { context, factsWith, planOne, stateWith, written } from "../../../tests/fixtures/macro";
import { folderId, messageId } from "../id";
import { TRAIT } from "../narrow";
import {
  abilitiesOf,
  mustConfirm,
  needsOf,
  plan,
  readSeen,
  stepsSchema,
  walkSteps,
  type Guess,
  type NamedMacro,
  type Plannable,
  type Step,
} from ".";

const named = (name: string, steps: readonly Step[], settings = {}): NamedMacro => ({ name, steps, settings });

describe("copy as text", () => {
  const textsOf = (steps: readonly Step[], settings = {}) => {
    const state = stateWith({});
    const messages = [1, 2, 3].map((id) => ({
      id: messageId(id),
      state,
      facts: factsWith({ fromName: id === 2 ? "Bo" : "Ines", fromAddress: "x@larch.example" }),
    }));
    const planned = plan({ steps, settings }, messages, {}, context);
    return planned.ok ? planned.plan : null;
  };
  test("takes along each message the macro comes to, changes nothing, and skips nothing", () => {
    expect(textsOf([{ do: "copy as text" }])).toMatchObject({ texts: [1, 2, 3], skipped: [], things: [], gone: 0 });
    expect(textsOf([{ do: "copy as text" }])!.change.messages.size).toBe(0);
    expect(textsOf([{ do: "copy as text" }, { do: "copy as text" }])!.texts).toEqual([1, 2, 3]);
    const some = textsOf([{ do: "only when", narrow: "from~ines" }, { do: "copy as text" }, { do: "pin" }])!;
    expect([some.texts, [...some.change.messages.keys()], some.skipped.map(({ message }) => message)]).toEqual([
      [1, 3],
      [1, 3],
      [2],
    ]);
    expect(textsOf([{ do: "copy as text" }], { for: "from~bo" })!.texts).toEqual([2]);
  });
  test("waits for answers like any step, and is nothing to take back", () => {
    const asking = textsOf([{ do: "copy as text" }, { do: "move", to: { ask: "folder" } }])!;
    expect([asking.texts, asking.asks.length]).toEqual([[], 1]);
    expect(textsOf([{ do: "read" }])!.texts).toEqual([]);
    expect(abilitiesOf({ steps: [{ do: "copy as text" }] }, [])).toMatchObject({ undoable: true, confirms: false });
  });
});

describe("conditions", () => {
  test("only when ends the macro for a message where it does not hold, and keeps what came before", () => {
    const steps: Step[] = [{ do: "pin" }, { do: "only when", narrow: "from~okafor" }, { do: "read" }];
    expect(written(planOne(steps))).toEqual({ pin: true, read: true });
    expect(written(planOne(steps, { facts: { fromName: "Bo", fromAddress: "bo@x.example" } }))).toEqual({ pin: true });
    const first = planOne([{ do: "only when", narrow: "from~nobody" }, { do: "read" }]);
    expect(first.skipped).toEqual([{ message: 1, step: 1, reason: "only-when" }]);
  });
  test("are looked at for every message, also where their states are one and the same", () => {
    const state = stateWith({});
    const from = ["ines@larch.example", "bo@tarn.example", "ines@larch.example", "una@tarn.example"];
    const messages = from.map((fromAddress, i) => ({
      id: messageId(i + 1),
      state,
      facts: factsWith({ fromName: "", fromAddress }),
    }));
    const pinned = (macro: Plannable) => {
      const planned = plan(macro, messages, {}, context);
      return planned.ok && [...planned.plan.change.messages.keys()];
    };
    const only: Step[] = [{ do: "only when", narrow: "from~larch" }, { do: "pin" }];
    const either: Step[] = [{ do: "if", narrow: "from~bo", then: [{ do: "pin" }], else: [] }];
    expect(pinned({ steps: only })).toEqual([1, 3]);
    expect(pinned({ steps: either })).toEqual([2]);
    expect(pinned({ steps: [{ do: "pin" }], settings: { for: "!from~larch" } })).toEqual([2, 4]);
  });
  test("see the message as the steps before have left it", () => {
    expect(written(planOne([{ do: "read" }, { do: "only when", narrow: "unread" }, { do: "pin" }]))).toEqual({
      read: true,
    });
    const moved: Step[] = [{ do: "archive" }, { do: "only when", narrow: "folder=Archive & label=Invoice" }];
    expect(written(planOne([{ do: "label", add: "Invoice" }, ...moved, { do: "note", text: "x" }]))).toMatchObject({
      note: "x",
    });
  });
  test("if goes one way or the other, as deep as it may, and a stop inside ends all", () => {
    const steps: Step[] = [
      {
        do: "if",
        narrow: "subject~beds",
        then: [{ do: "if", narrow: "read", then: [{ do: "pin" }], else: [{ do: "read" }, { do: "stop" }] }],
        else: [{ do: "trash" }],
      },
      { do: "archive" },
    ];
    expect(written(planOne(steps))).toEqual({ read: true });
    expect(written(planOne(steps, { state: { read: true } }))).toEqual({ pin: true, folder: 2 });
    expect(written(planOne(steps, { facts: { subject: "Other" } }))).toEqual({ folder: 2 });
    expect([...walkSteps(steps)].map(({ path }) => path)).toEqual([
      "1",
      "1.1",
      "1.1.1",
      "1.1.else.1",
      "1.1.else.2",
      "1.else.1",
      "2",
    ]);
  });
  test("the macro's own narrowing leaves out messages it is not for", () => {
    const macro = { steps: [{ do: "read" } as const], settings: { for: "from~nobody" } };
    expect(planOne(macro).skipped).toEqual([{ message: 1, step: 0, reason: "not-for" }]);
  });
  test("nesting past the limit is refused", () => {
    let steps: Step[] = [{ do: "read" }];
    for (let i = 0; i < 5; i++) steps = [{ do: "if", narrow: "unread", then: steps }];
    expect(stepsSchema.safeParse(steps).success).toBe(true);
    expect(stepsSchema.safeParse([{ do: "if", narrow: "unread", then: steps }]).success).toBe(false);
  });
});

describe("questions", () => {
  const steps: Step[] = [
    { do: "ask", name: "sure", kind: "yes/no" },
    { do: "if", answer: "sure", then: [{ do: "move", to: { ask: "folder" } }], else: [{ do: "pin" }] },
  ];
  test("are asked only where a message comes to them", () => {
    expect(planOne(steps).asks.map((q) => q.id)).toEqual(["ask:sure"]);
    expect(planOne(steps, { answers: { "ask:sure": "yes" } }).asks.map((q) => q.id)).toEqual(["2.1.to"]);
    expect(written(planOne(steps, { answers: { "ask:sure": "no" } }))).toEqual({ pin: true });
    expect(written(planOne(steps, { answers: { "ask:sure": "yes", "2.1.to": "archive" } }))).toEqual({ folder: 2 });
  });
  test("once for each message, with the message's number behind the question's", () => {
    const each: Step[] = [{ do: "note", text: { ask: "text", each: true } }];
    expect(planOne(each).asks).toMatchObject([{ id: "1.text@1", message: 1 }]);
    expect(written(planOne(each, { answers: { "1.text@1": "ring" } }))).toEqual({ note: "ring" });
  });
  test("an answer may be used again and again, and is checked before anything runs", () => {
    const where: Step[] = [
      { do: "ask", name: "where", kind: "folder" },
      { do: "copy", to: { answer: "where" } },
      { do: "move", to: { answer: "where" } },
    ];
    const planned = planOne(where, { answers: { "ask:where": "Archive" } });
    expect(written(planned)).toEqual({ folder: 2 });
    expect(planned.things).toMatchObject([{ kind: "copy", state: { folder: 2 } }]);
    expect(() => planOne(where, { answers: { "ask:where": "Nowhere" } })).toThrow("no-folder 1");
    expect(() => planOne([{ do: "move", to: { answer: "where" } }])).toThrow("no-answer 1");
  });
});

describe("macros in macros", () => {
  const macros = [
    named("Mark", [{ do: "read" }, { do: "stop" }, { do: "pin" }]),
    named("Only Bo", [{ do: "pin" }], { for: "from~bo" }),
    named("A", [{ do: "run macro", macro: "B" }]),
    named("B", [{ do: "run macro", macro: "A" }]),
  ];
  test("run in place; what ends them does not end the one that runs them", () => {
    const steps: Step[] = [
      { do: "run macro", macro: "mark" },
      { do: "run macro", macro: "Only Bo" },
      { do: "archive" },
    ];
    expect(written(planOne(steps, { more: { macros } }))).toEqual({ read: true, folder: 2 });
  });
  test("loops and missing ones are refused", () => {
    expect(() => planOne([{ do: "run macro", macro: "A" }], { more: { macros } })).toThrow("loop 1.run.1.run.1");
    expect(() => planOne([{ do: "run macro", macro: "None" }], { more: { macros } })).toThrow("no-macro 1");
    const itself = { name: "Mark", steps: [{ do: "run macro", macro: "Mark" } as const] };
    expect(() => planOne(itself, { more: { macros } })).toThrow("loop 1");
  });
});

describe("values taken from the message", () => {
  const noteOf = (text: object, more = {}) => written(planOne([{ do: "note", text } as unknown as Step], more)).note;
  test.each([
    ["first name", "Ines"],
    ["sender name", "Ines Okafor"],
    ["address", "ines@larch.example"],
    ["domain", "larch.example"],
    ["subject", "Beds for 14"],
    ["date in text", "2026-12-11"],
    ["amount in text", "CHF 1250.00"],
  ])("%s", (take, expected) => expect(noteOf({ take })).toBe(expected));
  test("what is not there is skipped, or is what was written for that case; the message is left whole", () => {
    const steps: Step[] = [{ do: "read" }, { do: "note", text: { take: "list" } }];
    const planned = planOne(steps);
    expect(planned.change.messages.size).toBe(0);
    expect(planned.skipped).toEqual([{ message: 1, step: 2, reason: "no-value" }]);
    expect(noteOf({ take: "list", else: "none" })).toBe("none");
  });
  test("patterns: the whole match or a named group, in linear time", () => {
    expect(noteOf({ pattern: "for (?P<beds>\\d+)", in: "subject", group: "beds" })).toBe("14");
    expect(noteOf({ pattern: "CHF [\\d']+", in: "text" })).toBe("CHF 1'250");
    const evil = { pattern: "(a+)+$", in: "text", else: "none" };
    expect(noteOf(evil, { facts: { body: `${"a".repeat(19_000)}!` } })).toBe("none");
    expect(() => noteOf({ pattern: "(", in: "text" })).toThrow("bad-pattern 1");
    expect(() => noteOf({ pattern: "x", in: "text", group: "y" })).toThrow("bad-pattern 1");
  });
  test("a folder or time of that name has to be there", () => {
    expect(planOne([{ do: "move", to: { take: "domain" } }]).skipped).toMatchObject([{ reason: "no-folder" }]);
    expect(written(planOne([{ do: "flag", due: { take: "date in text" } }])).flag).toMatchObject({
      due: "2026-12-11T08:00:00.000Z",
    });
    expect(planOne([{ do: "flag", due: { take: "subject" } }]).skipped).toMatchObject([{ reason: "bad-time" }]);
  });
  test("where only the server has the text, the message is left to it", () => {
    const steps: Step[] = [{ do: "flag", due: { take: "date in text" } }];
    expect(needsOf({ steps }, context)).toMatchObject({ facts: true, body: true });
    expect(planOne(steps, { facts: { body: null } })).toMatchObject({ unknown: [1], skipped: [] });
  });
  test("a guess is the folder somebody else says, or the message is skipped", () => {
    const steps: Step[] = [{ do: "move", to: { guess: "folder" } }];
    const guess: Guess = () => [{ folder: folderId(5), percent: 70 }];
    expect(written(planOne(steps, { more: { guess } }))).toEqual({ folder: 5 });
    expect(planOne(steps).skipped).toMatchObject([{ reason: "no-guess" }]);
    expect(planOne(steps, { more: { guess: () => [] } }).skipped).toMatchObject([{ reason: "no-guess" }]);
    expect(needsOf({ steps }, context)).toMatchObject({ guess: true, each: true, facts: false });
  });
  test("a guess that only the server knows is left to it", () => {
    const steps: Step[] = [{ do: "move", to: { guess: "folder" } }];
    expect(planOne(steps, { more: { guess: () => null } })).toMatchObject({ unknown: [1], skipped: [] });
  });
  test("a guess must be as sure as the step says, or else as the person has set", () => {
    const guess: Guess = () => [{ folder: folderId(5), percent: 70 }];
    const at = (least: number | undefined, leastSure: number) =>
      planOne([{ do: "move", to: { guess: "folder", ...(least === undefined ? {} : { least }) } }], {
        more: { guess, leastSure },
      });
    expect(written(at(undefined, 70))).toEqual({ folder: 5 });
    expect(at(undefined, 71).skipped).toMatchObject([{ reason: "doubtful" }]);
    expect(written(at(70, 99))).toEqual({ folder: 5 });
    expect(at(71, 0).skipped).toMatchObject([{ reason: "doubtful" }]);
  });
  test("where it is not sure, it goes elsewhere or is asked for, message by message", () => {
    const guess: Guess = () => [{ folder: folderId(5), percent: 10 }];
    const more = { guess, leastSure: 60 };
    const elsewhere: Step[] = [{ do: "move", to: { guess: "folder", otherwise: "Archive" } }];
    expect(written(planOne(elsewhere, { more }))).toEqual({ folder: 2 });
    const asking: Step[] = [{ do: "move", to: { guess: "folder", otherwise: { ask: "folder" } } }];
    expect(planOne(asking, { more }).asks).toMatchObject([{ id: "1.to@1", kind: "folder", message: 1 }]);
    expect(written(planOne(asking, { more, answers: { "1.to@1": "Archive" } }))).toEqual({ folder: 2 });
    expect(() => planOne([{ do: "move", to: { guess: "folder", otherwise: "Nowhere" } }], { more })).toThrow(
      "no-folder",
    );
  });
  test("the second guess is meant however sure it is", () => {
    const guess: Guess = () => [
      { folder: folderId(2), percent: 90 },
      { folder: folderId(5), percent: 4 },
    ];
    const steps = (nth: number): Step[] => [{ do: "move", to: { guess: "folder", nth } }];
    expect(written(planOne(steps(2), { more: { guess, leastSure: 60 } }))).toEqual({ folder: 5 });
    expect(planOne(steps(3), { more: { guess } }).skipped).toMatchObject([{ reason: "no-guess" }]);
  });
  test("a folder that is no more, or that nothing is filed into, is never the guess", () => {
    for (const folder of [99, 1, 3]) {
      const guess: Guess = () => [{ folder: folderId(folder), percent: 99 }];
      const planned = planOne([{ do: "move", to: { guess: "folder" } }], { more: { guess } });
      expect(planned.skipped).toMatchObject([{ reason: "no-folder" }]);
      const other = planOne([{ do: "move", to: { guess: "folder", otherwise: "Archive" } }], { more: { guess } });
      expect(written(other)).toEqual({ folder: 2 });
    }
  });
  test("what was seen is read as it was seen", () => {
    const seen = readSeen([[1, 5, 90, 3, 4], [2]]);
    expect([...seen]).toEqual([
      [
        1,
        [
          { folder: 5, percent: 90 },
          { folder: 3, percent: 4 },
        ],
      ],
      [2, []],
    ]);
  });
});

describe("what a macro makes", () => {
  test("tasks keep what they need of the message; people are named by address", () => {
    const planned = planOne([
      { do: "make task", due: "+2d", estimate: 20 },
      { do: "add contact" },
      { do: "block sender" },
    ]);
    expect(planned.things).toEqual([
      {
        kind: "task",
        source: 1,
        task: {
          title: "Beds for 14",
          due: "2026-11-26T08:00:00.000Z",
          estimate: 20,
          about: "Ines Okafor: Re: Beds for 14",
          done: false,
          pressing: false,
          waiting: false,
          repeat: null,
        },
      },
      { kind: "contact", source: 1, address: "ines@larch.example", name: "Ines Okafor" },
      { kind: "blocked", source: 1, address: "ines@larch.example" },
    ]);
    expect(planOne([{ do: "add sender to rule", rule: "Groups" }]).things).toEqual([
      { kind: "listed", source: 1, list: "Groups", address: "ines@larch.example" },
    ]);
    expect(planOne([{ do: "block sender" }], { facts: { fromAddress: "" } }).skipped).toMatchObject([
      { reason: "no-sender" },
    ]);
  });
  test("steps about a list or a sender name it once; one's own mail is nobody's", () => {
    const list = { list: "News.Ridge.example", fromAddress: "Bo@Ridge.example", traits: TRAIT.listmail };
    const madeBy = (step: Step["do"], facts: object) => planOne([{ do: step } as Step], { facts }).things;
    expect(madeBy("unsubscribe", list)).toEqual([
      { kind: "leaving", source: 1, of: "list news.ridge.example", account: 0 },
    ]);
    expect(madeBy("unsubscribe", { ...list, list: "", account: 3 })).toEqual([
      { kind: "leaving", source: 1, of: "sender bo@ridge.example", account: 3 },
    ]);
    expect(madeBy("aside", list)).toEqual([{ kind: "aside", source: 1, of: "list news.ridge.example", on: true }]);
    expect(madeBy("not aside", { fromAddress: "Bo@Ridge.example" })).toEqual([
      { kind: "aside", source: 1, of: "sender bo@ridge.example", on: false },
    ]);
    for (const step of ["unsubscribe", "aside", "not aside"] as const) {
      const nobody = planOne([{ do: step }], { facts: { fromAddress: "", list: "", traits: TRAIT.listmail } });
      expect(nobody.skipped).toMatchObject([{ reason: "no-sender" }]);
      const own = planOne([{ do: step }], { facts: { traits: TRAIT.mine | TRAIT.attachment } });
      expect([own.skipped[0]?.reason, own.things, own.change.messages.size]).toEqual(["own-mail", [], 0]);
      expect(planOne([{ do: step }], { facts: { traits: ~TRAIT.mine } }).things).toHaveLength(1);
    }
    const isRead = (domain: unknown) => stepsSchema.safeParse([{ do: "block sender", domain }]).success;
    expect([true, undefined, false].map(isRead)).toEqual([true, true, false]);
    // What names no way to leave is left alone, whole.
    const letter = planOne([{ do: "unsubscribe" }, { do: "trash" }], { facts: { traits: TRAIT.attachment } });
    expect([letter.skipped[0]?.reason, letter.things, letter.change.messages.size]).toEqual(["no-way", [], 0]);
    expect(planOne([{ do: "block sender", domain: true }]).things).toMatchObject([{ address: "@larch.example" }]);
    expect(
      planOne([{ do: "block sender", domain: true }], { facts: { fromAddress: "a@b@C.example" } }).things,
    ).toMatchObject([{ address: "@c.example" }]);
  });
  test("aside moves into its place, and back from there only", () => {
    expect(written(planOne([{ do: "aside" }]))).toEqual({ folder: 6 });
    expect(written(planOne([{ do: "not aside" }], { state: { folder: folderId(6) } }))).toEqual({ folder: 1 });
    expect(written(planOne([{ do: "not aside" }], { state: { folder: folderId(4) } }))).toEqual({});
    expect(written(planOne([{ do: "aside" }], { state: { defer: "2026-12-01T08:00:00.000Z" } }))).toEqual({
      folder: 6,
      defer: null,
    });
  });
  test("deleting for good is all that is done to the message, and is counted", () => {
    const planned = planOne([{ do: "pin" }, { do: "make task" }, { do: "delete for good" }]);
    expect(planned.gone).toBe(1);
    expect(written(planned)).toEqual({ gone: true });
    expect(planned.things).toHaveLength(1);
  });
  test("defer sets the time and nothing else", () => {
    expect(written(planOne([{ do: "defer", until: "tomorrow 9" }]))).toEqual({ defer: "2026-11-25T08:00:00.000Z" });
  });
});

test("a run asks first when it cannot be taken back, and as the settings say", () => {
  expect(mustConfirm({}, 1, true)).toBe(true);
  expect(mustConfirm({ confirm: "never" }, 1, true)).toBe(true);
  expect(mustConfirm({ confirm: "never" }, 10_000, false)).toBe(false);
  expect(mustConfirm({}, 500, false)).toBe(false);
  expect(mustConfirm({}, 501, false)).toBe(true);
  expect(mustConfirm({ confirm: 3 }, 4, false)).toBe(true);
  expect([100, 101].map((n) => mustConfirm({}, n, false, 0, 100))).toEqual([false, true]);
  // What was not chosen but belongs to the threads of what was.
  expect([5, 6].map((beyond) => mustConfirm({}, 7, false, beyond))).toEqual([false, true]);
  expect(mustConfirm({}, 0, false, 6)).toBe(false);
  expect(mustConfirm({ confirm: "never" }, 7, false, 6)).toBe(false);
  expect(mustConfirm({ confirm: 10 }, 7, false, 6)).toBe(false);
  expect(mustConfirm({ confirm: "always" }, 0, false)).toBe(false);
});

test("planning without the facts that are needed is the caller's mistake", () => {
  const message = { id: messageId(1), state: planOne([{ do: "read" }]).change.messages.size as never };
  expect(() => plan({ steps: [{ do: "add contact" }] }, [{ ...message, state: {} as never }], {}, context)).toThrow(
    RangeError,
  );
});
