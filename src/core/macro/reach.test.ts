import { describe, expect, test } from "vitest";
import { context, planOne } from "../../../tests/fixtures/macro";
import { abilitiesOf, checkMacro, checkSteps, MOST_EXPANDED, plan, type NamedMacro, type Step } from ".";
import { deletesAlways } from "./reach";

const macro = (name: string, ...steps: Step[]): NamedMacro => ({ name, steps, settings: {} });
const run = (name: string): Step => ({ do: "run macro", macro: name });
const DELETE: Step = { do: "delete for good" };
const call = (name: string, macros: readonly NamedMacro[]) => abilitiesOf({ steps: [run(name)] }, macros);

describe("what a macro can do", () => {
  const macros = [
    macro("Quiet", { do: "read" }, { do: "archive" }),
    macro("Ends", { do: "read" }, DELETE),
    macro("Hidden", { do: "if", narrow: "unread", then: [{ do: "pin" }], else: [run("ends")] }),
    macro("Asks", { do: "move", to: { ask: "folder" } }),
    macro("Itself", run("Itself"), DELETE),
    macro("Writes", { do: "reply" }),
  ];
  test("is what it does itself, in its branches, and in all it runs, however deep", () => {
    expect(call("Quiet", macros)).toMatchObject({
      confirms: false,
      undoable: true,
      asks: false,
      lasting: [],
      passing: [],
      expanded: 3,
    });
    const asking = [macro("Asks", { do: "unsubscribe" }, { do: "report", as: "junk" }, { do: "aside" })];
    expect(call("Asks", asking)).toMatchObject({ undoable: true, lasting: [], passing: ["unsubscribe", "report"] });
    expect(call("Ends", macros)).toMatchObject({ confirms: true, undoable: false, lasting: ["delete for good"] });
    expect(call("Hidden", macros)).toMatchObject({ confirms: true, undoable: false });
    expect([...call("Hidden", macros).kinds].sort()).toEqual(["delete for good", "if", "pin", "read", "run macro"]);
    expect(call("Asks", macros)).toMatchObject({ asks: true, undoable: true });
    expect(call("Writes", macros)).toMatchObject({ writes: true });
    expect(abilitiesOf({ steps: [{ do: "reply", template: "Yes" }] }, macros).writes).toBe(false);
  });
  test("is told of one that runs itself, or one that is not there", () => {
    expect(call("Itself", macros)).toMatchObject({ confirms: true, expanded: 3 });
    expect(call("Nobody", macros)).toMatchObject({ confirms: false, expanded: 1 });
    expect(abilitiesOf({ steps: [run("Quiet")] }, undefined).expanded).toBe(1);
  });
  test("counts what runs come to, each time they are run", () => {
    expect(abilitiesOf({ steps: [run("Quiet"), run("Quiet"), { do: "read" }] }, macros).expanded).toBe(7);
    expect(call("Hidden", macros).expanded).toBe(6);
  });
});

describe("macros that run macros that run macros", () => {
  /** Fifty calls in each of four levels are six million steps. */
  const levels = [0, 1, 2, 3].map((level) =>
    macro(
      `L${level}`,
      ...Array.from({ length: 50 }, (): Step => (level === 3 ? { do: "read" } : run(`L${level + 1}`))),
    ),
  );
  const more = { ...context, macros: levels };
  test("are refused before anything is done, by the planner and the check alike", () => {
    expect(call("L0", levels).expanded).toBe(MOST_EXPANDED + 1);
    const planned = plan({ steps: [run("L0")] }, [], {}, more);
    expect(planned).toMatchObject({ ok: false, problems: [{ code: "too-long", most: MOST_EXPANDED }] });
    expect(checkSteps({ steps: [run("L0")] }, more).problems.map((one) => one.code)).toEqual(["too-long"]);
    expect(checkMacro({ steps: [run("L0")] }, more)[0]).toMatchObject({
      severity: "stops",
      text: expect.stringContaining("1000 steps"),
    });
  });
  test("are fine up to the bound", () => {
    const exact = macro("Exact", ...Array.from({ length: 50 }, (): Step => ({ do: "read" })));
    // Nineteen calls are 19 + 19 × 50 = 969; with 31 more steps 1000, and one more is too many.
    const steps = (extra: number): Step[] => [
      ...Array.from({ length: 19 }, () => run("Exact")),
      { do: "if", narrow: "unread", then: Array.from({ length: extra }, (): Step => ({ do: "pin" })) },
    ];
    const problems = (extra: number) => checkSteps({ steps: steps(extra) }, { ...context, macros: [exact] }).problems;
    expect(problems(30)).toEqual([]);
    expect(problems(31).map((one) => one.code)).toEqual(["too-long"]);
  });
});

describe("deleting for good in a macro that is run", () => {
  const macros = [
    macro("Ends", { do: "read" }, DELETE),
    macro("Sometimes", { do: "only when", narrow: "unread" }, DELETE),
    { ...macro("For some", DELETE), settings: { for: "unread" } },
    macro("Loop", run("Loop")),
  ];
  const more = { ...context, macros };
  test("deletes, and nothing else is done", () => {
    const planned = planOne([run("Ends"), { do: "pin" }], { more });
    expect(planned.gone).toBe(1);
    expect([...planned.change.messages.values()]).toEqual([[{ kind: "gone", before: false, after: true }]]);
  });
  test("is said by the check: what follows is never reached, and nobody is there to agree", () => {
    const found = (steps: Step[]) => checkMacro({ steps, settings: { unattended: true } }, more);
    expect(found([run("Ends"), { do: "pin" }]).map((one) => [one.code, one.path])).toEqual([
      ["after-delete", "2"],
      ["confirm-unattended", "1"],
    ]);
    expect(found([run("Sometimes"), { do: "pin" }]).map((one) => one.code)).toEqual(["confirm-unattended"]);
    const branch: Step = {
      do: "if",
      narrow: "unread",
      then: [run("Sometimes")],
      else: [{ do: "note", text: { ask: "text" } }],
    };
    expect(found([branch]).map((one) => [one.code, one.path])).toEqual([
      ["confirm-unattended", "1.1"],
      ["question-unattended", "1.else.1"],
    ]);
  });
  test.each<[boolean, Step[]]>([
    [true, [DELETE]],
    [true, [{ do: "read" }, run("Ends")]],
    [true, [{ do: "if", narrow: "unread", then: [DELETE], else: [run("Ends")] }]],
    [false, [{ do: "if", narrow: "unread", then: [DELETE] }]],
    [true, [{ do: "if", narrow: "unread", then: [{ do: "pin" }] }, DELETE]],
    [false, [{ do: "if", narrow: "unread", then: [{ do: "stop" }] }, DELETE]],
    [false, [{ do: "stop" }, DELETE]],
    [false, [{ do: "only when", narrow: "unread" }, DELETE]],
    [false, [run("Sometimes")]],
    [false, [run("For some")]],
    [false, [run("Loop")]],
    [false, []],
  ])("whether everything is deleted: %j of %j", (always, steps) => {
    expect(deletesAlways(steps, macros)).toBe(always);
  });
});
