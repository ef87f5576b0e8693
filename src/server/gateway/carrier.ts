import type { Connection } from "../db";
import { gatewayOf, serverAccounts, type Account } from "./accounts";
import type { Carrier } from "./gateway";
import { sendBySmtp, trySmtp } from "./internet";
import { openingOf } from "./token";

/** Who carries an account's letters. @throws NoKey, or GatewayAway where there is nothing to sign in with */
export async function carrierOf(sql: Connection, account: Account): Promise<Carrier> {
  if (account.kind === "simulated") return gatewayOf(sql, account);
  const [full] = await serverAccounts(sql, account.person, account.id);
  if (!full) throw new Error("The account is not there any more.");
  const opening = await openingOf(sql, full);
  return {
    can: () => trySmtp(full.servers, opening),
    send: (envelope, raw) => sendBySmtp(full.servers, opening, envelope, raw),
  };
}
