import { filterChange } from "@/core/change";
import type { MessageId, PersonId } from "@/core/id";
import type { Plan } from "@/core/macro";
import { plural } from "@/core/text";
import type { Queryable } from "../db";
import { stillComing, wantSources } from "../store";
import { Refusal } from "./refusal";

/** What needs a text that is on a server still waits for it. */

/** Why what needs the texts of messages cannot be done: they are asked for before others now. */
export async function whyComing(sql: Queryable, person: PersonId, ids: readonly MessageId[]): Promise<Refusal> {
  const still = await stillComing(sql, person, ids);
  if (still.length === 0)
    return new Refusal(
      409,
      "Its text never came",
      "Only its headers are here. Its text was on the server alone, and is out of reach since the message or the account is gone.",
    );
  await wantSources(sql, person, still);
  const whose = ids.length === 1 ? "Its text is" : `The texts of ${plural(still.length, "message")} are`;
  return new Refusal(
    409,
    "Not here yet",
    `${whose} on the server still, and comes before others now. Try again in a moment; a paused account has to go on for it.`,
  );
}

/** @throws Refusal where texts of messages may still come */
export async function mustBeHere(sql: Queryable, person: PersonId, ids: readonly MessageId[]): Promise<void> {
  const still = await stillComing(sql, person, ids);
  if (still.length > 0) throw await whyComing(sql, person, still);
}

/**
 * A plan without what cannot be done for want of texts: messages whose texts a step asks for, and those that would be
 * sent on without what they say.
 */
export async function withoutComing(sql: Queryable, person: PersonId, plan: Plan): Promise<Plan> {
  const sentOn = plan.things.flatMap((thing) =>
    thing.kind === "letter" && thing.letter.how === "forward" ? [thing.source] : [],
  );
  const unsaid = sentOn.length === 0 ? [] : await stillComing(sql, person, sentOn);
  if (plan.unknown.length === 0 && unsaid.length === 0) return plan;
  await wantSources(sql, person, unsaid);
  const left = new Set<MessageId>(unsaid);
  return {
    ...plan,
    change: filterChange(
      plan.change,
      (_, id) => !left.has(id),
      () => true,
    ),
    things: plan.things.filter(({ source }) => !left.has(source)),
    skipped: [
      ...plan.skipped,
      ...[...plan.unknown, ...unsaid].map((message) => ({ message, step: 0, reason: "coming" as const })),
    ],
    unknown: [],
    pauses: plan.pauses.filter(({ message }) => !left.has(message)),
    texts: plan.texts.filter((id) => !left.has(id)),
  };
}
