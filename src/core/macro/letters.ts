import type { FolderId } from "../id";
import { isAddress, readCorrespondents, type LetterKind } from "../letter";
import type { Op, Run } from "./op";
import { skip, type Get } from "./get";
import { goesOf, type LetterStep } from "./step";
import { getFilled, templateNamed } from "./template";
import type { Values } from "./values";

const NEVER: Get<null> = () => ({ value: null });

/** @returns null where the text names nobody a letter could go to */
const readTo = (text: string): string | null => {
  const people = readCorrespondents(text);
  return people.length > 0 && people.every(({ address }) => isAddress(address)) ? text : null;
};

/** What a step that writes a letter does: it makes the letter, and waits where the person is to finish it. */
export function letterOp(v: Values, step: LetterStep, path: string): Op {
  const how: LetterKind = step.do === "new message" ? "new" : step.do;
  const goes = goesOf(step);
  const template = step.template === undefined ? null : templateNamed(v.context.templates, step.template);
  if (step.template !== undefined && template === undefined) v.problem("no-template", { name: step.template });
  if (goes === "outbox" && step.template === undefined && step.do !== "forward") v.problem("nothing-written", {});
  const fill = template ? getFilled(v, template) : null;
  const to = "to" in step ? v.text(step.to, "to") : NEVER;
  if ("to" in step && typeof step.to === "string" && readTo(step.to) === null)
    v.problem("bad-address", { text: step.to });
  const sendAt = v.time(step.send, "send");
  const sent: Get<FolderId | null> = step.sent === undefined ? NEVER : v.folder(step.sent, "sent");
  return (run: Run) => {
    const values = [to(run), sendAt(run), sent(run)] as const;
    const filled = fill?.(run) ?? NEVER(run);
    for (const got of [...values, filled]) {
      if (!("fail" in got)) continue;
      if (got.fail !== "ask") return got;
      run.ask(got.question);
    }
    const [whom, when, where] = values;
    if ("fail" in whom || "fail" in when || "fail" in where || "fail" in filled) return "go-on";
    if (whom.value !== null && readTo(whom.value) === null) return skip("no-address");
    run.make({
      kind: "letter",
      letter: {
        how,
        goes,
        at: path,
        to: whom.value,
        filled: filled.value === null ? null : { template: template!.name, ...filled.value },
        prefix: ("prefix" in step ? step.prefix : undefined) ?? "",
        suffix: ("suffix" in step ? step.suffix : undefined) ?? "",
        sendAt: when.value,
        sent: where.value,
        sentToo: step.sentToo === true,
      },
    });
    if (goes === "owed") run.draft.owed = true;
    else if (how !== "new" && goes === "outbox") run.draft.owed = false;
    run.draft.back = null;
    return goes === "draft" ? { pause: path } : "go-on";
  };
}
