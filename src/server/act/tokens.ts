import type * as z from "zod";
import type { newTokenShape, TokenShape } from "@/core/api";
import { notFound, Refusal } from "../run";
import { endToken as endOne, listTokens as listThem, makeToken as make } from "../sign-in";
import type { Context } from "./context";

const MOST_TOKENS = 100;

export const listTokens = ({ db, person }: Context): Promise<TokenShape[]> => listThem(db, person);

export async function makeToken(context: Context, asked: z.infer<typeof newTokenShape>): Promise<{ token: string }> {
  if ((await listTokens(context)).length >= MOST_TOKENS)
    throw new Refusal(409, "Enough tokens", `There are ${MOST_TOKENS} already. End those that nothing uses.`);
  return { token: await make(context.db, context.person, { ...asked, name: asked.name.trim() }) };
}

export async function endToken({ db, person }: Context, id: string): Promise<void> {
  if (!(await endOne(db, person, id))) throw notFound("token", id);
}
