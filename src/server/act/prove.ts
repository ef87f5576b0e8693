import type { AuthenticationResponseJSON } from "@simplewebauthn/server";
import type * as z from "zod";
import type { proofRequest } from "@/core/api";
import { Refusal } from "../run";
import { isPassword, isProved, noteProved, whoSigned } from "../sign-in";
import { counted } from "./attempts";
import type { Context } from "./context";
import { triedBy, type From } from "./sign-in";

/**
 * What lets somebody in for longer than this session, a passkey, codes or a token, is made only by whoever has shown
 * of late who they are: a window that was left open is not enough.
 */

/** By what a person could show it; neither for who comes in by links alone, of whom nothing is asked. */
async function meansOf({ db, person }: Context): Promise<{ address: string; password: string | null; keys: number }> {
  const [row] = await db.sql<{ address: string; password: string | null; keys: number }[]>`
    select coalesce(s.address, p.address) as address, s.password,
      (select count(*)::int from passkey k where k.person = p.id) as keys
    from person p left join sign_in s on s.person = p.id where p.id = ${person}`;
  return row!;
}

/** Whether they are to show once more who they are before they make what lets in. */
export async function mustProve(context: Context, session: string): Promise<boolean> {
  if (await isProved(context.db, context.person, session)) return false;
  const { password, keys } = await meansOf(context);
  return password !== null || keys > 0;
}

/** @throws Refusal (403) */
export async function checkProved(context: Context, session: string): Promise<void> {
  if (await mustProve(context, session))
    throw new Refusal(403, "Not yet", "Say once more who you are: your password or a passkey shows it.", {
      code: "prove",
    });
}

/** Takes a password, or what a passkey has signed. @throws Refusal (422, 429) */
export async function prove(
  context: Context,
  session: string,
  from: From,
  proof: z.infer<typeof proofRequest>,
): Promise<void> {
  const { db, person } = context;
  if ("password" in proof) {
    const { address, password } = await meansOf(context);
    await counted(db, triedBy(from, address), async () => {
      if (!(await isPassword(password, proof.password)))
        throw new Refusal(422, "Not the password", "That is not the password you have.");
    });
  } else {
    const who = await whoSigned(from.db, proof.credential as unknown as AuthenticationResponseJSON, from.site);
    if (who !== person) throw new Refusal(422, "Not your passkey", "That passkey is not yours, or it took too long.");
  }
  await noteProved(db, person, session);
}
