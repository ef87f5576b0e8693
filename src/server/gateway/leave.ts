import type { PersonId } from "@/core/id";
import type { Connection } from "../db";
import { findAccount } from "./accounts";
import type { LeaveOutcome } from "./gateway";
import { postLeave } from "./internet";

/** Asks a list, by one request (RFC 8058), to send nothing more; the simulated service stands in for all of the net. */
export async function askToLeave(
  sql: Connection,
  person: PersonId,
  account: number,
  target: string,
): Promise<LeaveOutcome> {
  const of = await findAccount(sql, person, account === 0 ? null : account);
  if (of?.kind !== "simulated") return postLeave(target);
  const [service] = await sql<{ mode: string }[]>`
    select mode from simulator where person = ${person} and account = ${of.id}`;
  if (service?.mode === "away") return { is: "later", said: "The simulated service is away." };
  await sql`insert into simulated_left (person, account, target) values (${person}, ${of.id}, ${target})`;
  return { is: "left" };
}
