import type { z } from "zod";
import type { identityPatch, IdentityShape, newIdentity } from "@/core/api";
import { isAddress } from "@/core/letter";
import type { Queryable } from "../db";
import { inTurn, notFound, Refusal } from "../run";
import { tell } from "../store";
import type { Context } from "./context";
import { bringBack, takeOut } from "./taken-out";

/** Whom the person writes as. */

const rows = (sql: Queryable, person: number): Promise<IdentityShape[]> =>
  sql<IdentityShape[]>`
    select id, name, address, signature, position from identity where person = ${person} order by position, id`;

function mustBeAddress(address: string): void {
  if (!isAddress(address))
    throw new Refusal(422, "Not an address", `"${address}" cannot be an address. Write one such as desk@huts.example.`);
}

export const listIdentities = ({ db, person }: Context): Promise<IdentityShape[]> => rows(db.sql, person);

export async function createIdentity(context: Context, body: z.infer<typeof newIdentity>): Promise<IdentityShape> {
  const { db, person } = context;
  mustBeAddress(body.address);
  return inTurn(db, person, async (tx) => {
    const [row] = await tx<IdentityShape[]>`
      insert into identity (person, name, address, signature, position)
      values (${person}, ${body.name}, ${body.address}, ${body.signature},
        (select coalesce(max(position), -1) + 1 from identity where person = ${person}))
      returning id, name, address, signature, position`;
    await tell(tx, person, "settings");
    return row!;
  });
}

export async function changeIdentity(
  context: Context,
  id: number,
  { deleted, ...body }: z.infer<typeof identityPatch>,
): Promise<IdentityShape> {
  const { db, person } = context;
  if (body.address !== undefined) mustBeAddress(body.address);
  return inTurn(db, person, async (tx) => {
    if (deleted === false) await bringBack(tx, "identity", person, id);
    const all = await rows(tx, person);
    const old = all.find((one) => one.id === id);
    if (!old) throw notFound("identity", id);
    const next = {
      ...old,
      ...Object.fromEntries(Object.entries(body).filter(([, value]) => value !== undefined)),
    } as IdentityShape;
    await tx`
      update identity set name = ${next.name}, address = ${next.address}, signature = ${next.signature}
      where person = ${person} and id = ${id}`;
    if (body.position !== undefined) {
      const others = all.map((one) => one.id).filter((other) => other !== id);
      others.splice(body.position, 0, id);
      for (const [position, other] of others.entries())
        await tx`update identity set position = ${position} where person = ${person} and id = ${other}`;
    }
    await tell(tx, person, "settings");
    return (await rows(tx, person)).find((one) => one.id === id)!;
  });
}

export async function deleteIdentity({ db, person }: Context, id: number): Promise<void> {
  await inTurn(db, person, async (tx) => {
    const all = await rows(tx, person);
    if (!all.some((one) => one.id === id)) throw notFound("identity", id);
    if (all.length === 1)
      throw new Refusal(409, "The only one", "Mail has to come from somebody. Make another identity first.");
    await takeOut(tx, "identity", person, id);
    await tell(tx, person, "settings");
  });
}
