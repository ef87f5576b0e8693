import { textOfIssue, type Issue } from "@/core/narrow";

/** What a program may do about a refusal, where its words alone do not tell. */
export type RefusalCode = "nothing-left" | "changed-elsewhere" | "code-needed" | "too-much" | "prove";

/** A request that cannot be done, with words for the person who made it. */
export class Refusal extends Error {
  override readonly name = "Refusal";
  constructor(
    readonly status: 400 | 401 | 403 | 404 | 408 | 409 | 413 | 422 | 429,
    readonly title: string,
    readonly detail: string,
    readonly more: {
      readonly issues?: readonly { text: string; from: number; to: number }[];
      readonly code?: RefusalCode;
      /** Seconds after which it may be asked again. */
      readonly after?: number;
    } = {},
  ) {
    super(`${title}: ${detail}`);
  }
}

export const notFound = (what: string, id: string | number): Refusal =>
  new Refusal(404, `No such ${what}`, `There is no ${what} ${id}. It may have been deleted.`);

export const badNarrow = (issues: readonly Issue[]): Refusal =>
  new Refusal(400, "The narrowing cannot be read", issues.map(textOfIssue).join(" "), {
    issues: issues.map((issue) => ({ text: textOfIssue(issue), ...issue.span })),
  });
