import { fold } from "@/core/narrow";
import type { MessageId } from "@/core/id";
import { messagesWith } from "../search";
import { Refusal } from "../run";
import type { Context } from "./context";

/** Which messages hold a needle in their own words. @param needle as the check of an expression made it */
export async function wordsWith({ db, person }: Context, needle: string): Promise<MessageId[]> {
  const folded = fold(needle);
  const isNeedle = folded !== " " && (needle === folded || needle === folded.slice(0, -1));
  if (!isNeedle) throw new Refusal(400, "Not a needle", "Give words as they are folded, with a space before them.");
  return messagesWith(db.sql, person, needle);
}
