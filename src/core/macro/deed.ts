import type { Draft } from "./facts";
import type { Get } from "./get";
import type { Op, Run } from "./op";
import type { Values } from "./values";

/** What steps are made of: writes to the message, with the values they take. */

export const write =
  (edit: (draft: Draft) => void): Op =>
  ({ draft }) => {
    edit(draft);
    return "go-on";
  };

export const using =
  <T>(get: Get<T>, edit: (draft: Draft, value: T) => void): Op =>
  (run) => {
    const got = get(run);
    if ("fail" in got) return got;
    edit(run.draft, got.value);
    return "go-on";
  };

/** Uses several values at once, and asks all their questions together. */
export const both =
  (gets: readonly Get<string | null>[], use: (run: Run, values: readonly (string | null)[]) => void): Op =>
  (run) => {
    const got = gets.map((get) => get(run));
    const fails = got.filter((one) => "fail" in one);
    for (const fail of fails) if (fail.fail === "ask") run.ask(fail.question);
    const [first] = fails.filter((fail) => fail.fail !== "ask");
    if (first) return first;
    if (fails.length === 0)
      use(
        run,
        got.map((one) => ("value" in one ? one.value : null)),
      );
    return "go-on";
  };

/** For a step that looks at the messages themselves, each by itself. */
export function withFacts(v: Values, op: Op): Op {
  v.needs.facts = true;
  v.needs.each = true;
  return op;
}
