import { createHash } from "node:crypto";
import type { SimulatorShape } from "@/core/api";
import { needsUtf8 } from "@/core/letter";
import type { PersonId } from "@/core/id";
import type { Connection } from "../db";
import type { Envelope, SendOutcome, Turned } from "./gateway";

/** What the simulated service does with what it is given to deliver. */

export type Behaviour = Pick<SimulatorShape, "mode" | "answers" | "bounces" | "answerAfter" | "utf8">;

/** What comes back of a message: an answer, a report that it could not be delivered, a note that nobody is in. */
export type Comes = "answer" | "bounce" | "away";

const SLOW_MS = 4000;
const pause = (ms: number) => new Promise<void>((done) => setTimeout(done, ms));

/** Beginnings of addresses whose fate is known: for trying things out. */
const TURNED = /^(nobody|unknown)([.+-]|@)/i;
const FULL = /^(full|gone)([.+-]|@)/i;
const AWAY = /^(away|holiday)([.+-]|@)/i;
const SILENT = /^(silent|noreply|no-reply)([.+-]|@)/i;
const KEEN = /^(keen|prompt)([.+-]|@)/i;

/** Between 0 and 1, the same for the same message and address. */
function chance(address: string, messageId: string): number {
  const hash = createHash("sha256").update(`${address.toLowerCase()} ${messageId}`).digest();
  return hash.readUInt32BE(0) / 2 ** 32;
}

/** What will come back, and nothing for most. */
export function fateOf(address: string, messageId: string, { answers, bounces }: Behaviour): Comes | null {
  if (FULL.test(address)) return "bounce";
  if (AWAY.test(address)) return "away";
  if (SILENT.test(address)) return null;
  if (KEEN.test(address)) return "answer";
  const at = chance(address, messageId);
  if (at < bounces) return "bounce";
  return at < bounces + answers * (1 - bounces) ? "answer" : null;
}

const messageIdIn = (raw: Uint8Array): string | null =>
  /^message-id:\s*(<[^>\r\n]+>)/im.exec(Buffer.from(raw.subarray(0, 16_384)).toString("latin1"))?.[1] ?? null;

function turnedAway(to: readonly string[], utf8: boolean): Turned[] {
  return to.flatMap((address) => {
    if (TURNED.test(address)) return [{ address, said: `550 5.1.1 <${address}>: there is no such mailbox here` }];
    if (!utf8 && needsUtf8(address))
      return [{ address, said: `553 5.6.7 <${address}>: this server takes no addresses outside ASCII` }];
    return [];
  });
}

/** Takes a message to deliver: each recipient is a row of what was received. */
export async function deliver(
  sql: Connection,
  person: PersonId,
  account: number,
  behaviour: Behaviour,
  { from, to }: Envelope,
  raw: Uint8Array,
): Promise<SendOutcome> {
  if (behaviour.mode === "away") return { is: "later", said: "The simulated service is away." };
  if (behaviour.mode === "slow") await pause(SLOW_MS);
  if (behaviour.mode === "busy") return { is: "later", said: "451 4.3.2 Too busy: try again later" };
  const turned = turnedAway(to, behaviour.utf8);
  const taken = to.filter((address) => !turned.some((one) => one.address === address));
  if (taken.length === 0) return { is: "refused", said: turned[0]?.said ?? "503 5.5.1 No recipients", turned };
  const messageId = messageIdIn(raw);
  const rows = taken.map((address) => {
    const comes = fateOf(address, messageId ?? "", behaviour);
    // A report comes at once, as does a note that nobody is in.
    return { address, comes, after: comes === "answer" ? behaviour.answerAfter : 2 };
  });
  await sql`
    insert into simulated_sent (person, account, mail_from, recipient, message_id, raw, comes, comes_at)
    select ${person}, ${account}, ${from}, r.address, ${messageId}, ${raw}, r.comes,
      case when r.comes is null then null else now() + make_interval(secs => r.after) end
    from jsonb_to_recordset(${JSON.stringify(rows)}::text::jsonb) as r(address text, comes text, after int)`;
  if (behaviour.mode === "breaking") return { is: "unsure", said: "The connection broke before the service answered." };
  return { is: "accepted", turned };
}
