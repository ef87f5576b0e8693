import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { insertAt, listAt, moveWithin, removeAt, replaceAt, spotOf, stepsSchema, walkSteps, type Step } from ".";

const { steps: arbSteps } = fc.letrec<{ steps: Step[]; step: Step }>((tie) => ({
  step: fc.oneof(
    { depthSize: "small" },
    fc.constantFrom<Step>({ do: "read" }, { do: "pin" }, { do: "archive" }, { do: "label", add: "Invoice" }),
    fc.record({
      do: fc.constant("if" as const),
      narrow: fc.constant("unread"),
      then: tie("steps"),
      else: tie("steps"),
    }),
  ),
  steps: fc.array(tie("step"), { maxLength: 3 }),
}));
const NEW: Step = { do: "note", text: "new" };

describe("laws of places in a macro", () => {
  test("every place walked to can be replaced, and nothing else changes", () => {
    fc.assert(
      fc.property(arbSteps, (steps) => {
        for (const { step, path } of walkSteps(steps)) {
          expect(replaceAt(steps, path, step)).toEqual(steps);
          const changed = replaceAt(steps, path, NEW);
          expect([...walkSteps(changed)].find((found) => found.path === path)?.step).toEqual(NEW);
        }
      }),
    );
  });
  test("putting a step in and taking it out again leaves the macro as it was", () => {
    fc.assert(
      fc.property(arbSteps, fc.nat(), (steps, n) => {
        const spots = [{ under: "", index: steps.length }, ...[...walkSteps(steps)].map(({ path }) => spotOf(path))];
        const spot = spots[n % spots.length]!;
        const more = insertAt(steps, spot, NEW);
        expect(listAt(more, spot.under)).toHaveLength(listAt(steps, spot.under).length + 1);
        expect(removeAt(more, `${spot.under}${spot.index + 1}`)).toEqual(steps);
      }),
    );
  });
  test("a step moved there and back is where it was; past the ends nothing moves", () => {
    fc.assert(
      fc.property(arbSteps, fc.nat({ max: 3 }), (steps, to) => {
        for (const { path } of walkSteps(steps)) {
          const { under, index } = spotOf(path);
          const moved = moveWithin(steps, path, to);
          const inside = to < listAt(steps, under).length;
          expect(moveWithin(moved, `${under}${(inside ? to : index) + 1}`, index)).toEqual(steps);
        }
      }),
    );
  });
  test("anything else is no path", () => {
    for (const path of ["", "x", "1.", ".1", "1.or.2"]) expect(() => spotOf(path)).toThrow(RangeError);
  });
  test("whatever the steps, the schema takes them as they are, or says how deep they may be", () => {
    fc.assert(
      fc.property(arbSteps, (steps) => {
        const read = stepsSchema.safeParse(steps);
        const depth = Math.max(0, ...[...walkSteps(steps)].map(({ path }) => path.match(/\.(?!else)/g)?.length ?? 0));
        if (depth < 5) expect(read.success && read.data).toEqual(steps);
      }),
    );
  });
});
