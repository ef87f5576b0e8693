import type { RegistrationResponseJSON } from "@simplewebauthn/server";
import type * as z from "zod";
import type { CodeSecretShape, passkeyRequest } from "@/core/api";
import type { Queryable } from "../db";
import { NoKey } from "../gateway";
import { notFound, Refusal } from "../run";
import { addPasskey, askForPasskey, newPaperCodes, newSecret, removePasskey, takeCode, type Site } from "../sign-in";
import { counted } from "./attempts";
import type { Context } from "./context";

/** What somebody signs in with beside a password: passkeys, codes, and codes on paper. */

export async function beginPasskey({ db, person }: Context, site: Site) {
  const [row] = await db.sql<
    { name: string; address: string }[]
  >`select name, address from person where id = ${person}`;
  return askForPasskey(db, person, row!, site);
}

export async function keepPasskey(
  { db, person }: Context,
  { name, credential }: z.infer<typeof passkeyRequest>,
  site: Site,
): Promise<void> {
  const made = await addPasskey(db, person, credential as unknown as RegistrationResponseJSON, name.trim(), site);
  if (!made)
    throw new Refusal(
      422,
      "No passkey",
      "The passkey was not made as it was asked for, or it took too long. Try again.",
    );
}

export async function dropPasskey({ db, person }: Context, id: string): Promise<void> {
  if (!(await removePasskey(db, person, id))) throw notFound("passkey", "of that id");
}

/** A secret for an app that makes codes; codes are asked for once a first one was right. @throws Refusal (409) */
export async function beginCodes({ db, person }: Context): Promise<CodeSecretShape> {
  const [row] = await db.sql<{ address: string; areOn: boolean }[]>`
    select address, code_since is not null as "areOn" from sign_in where person = ${person} and password is not null`;
  if (!row) throw new Refusal(409, "No password yet", "Codes go with a password: set one first.");
  if (row.areOn) throw new Refusal(409, "On already", "Codes are asked for already. Turn them off first.");
  const secret = await newSecret(db, person).catch((error: unknown) => {
    if (error instanceof NoKey) throw new Refusal(409, "No key", error.message);
    throw error;
  });
  const name = encodeURIComponent(`Tachyne:${row.address}`);
  return { secret, uri: `otpauth://totp/${name}?secret=${secret}&issuer=Tachyne` };
}

/** Counted as attempts to sign in are: whoever sits at an open window may not try them all. */
const withCode = <T>({ db, person }: Context, code: string, work: (tx: Queryable) => Promise<T>): Promise<T> =>
  counted(
    db,
    [{ kind: "codes", name: String(person) }],
    async () =>
      (await db.sql.begin(async (tx) => {
        if (!(await takeCode(tx, person, code)))
          throw new Refusal(422, "Not that code", "The code is wrong, or was used. Write the one that is shown now.");
        return work(tx);
      })) as T,
  );

/** From now on codes are asked for. @returns codes on paper, told this once */
export const confirmCodes = (context: Context, code: string): Promise<readonly string[]> =>
  withCode(context, code, async (tx) => {
    await tx`update sign_in set code_since = now() where person = ${context.person}`;
    return newPaperCodes(tx, context.person);
  });

/** Others in the place of those on paper. @throws Refusal (409) */
export const renewPaper = (context: Context, code: string): Promise<readonly string[]> =>
  withCode(context, code, async (tx) => {
    const on = await tx`select 1 from sign_in where person = ${context.person} and code_since is not null`;
    if (on.length === 0) throw new Refusal(409, "Not on", "No codes are asked for: turn them on first.");
    return newPaperCodes(tx, context.person);
  });

export const endCodes = (context: Context, code: string): Promise<void> =>
  withCode(context, code, async (tx) => {
    await tx`update sign_in set code_secret = null, code_since = null where person = ${context.person}`;
    await tx`delete from recovery_code where person = ${context.person}`;
  });
