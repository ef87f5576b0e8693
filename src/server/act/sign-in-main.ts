import { parseArgs } from "node:util";
import { openDatabase } from "../db";
import { makeOnce } from "../sign-in";
import { personOf } from "./context";
import { inviteFirst } from "./sign-in";

/**
 * `sign-in [--address A] [--minutes N]`: prints a link's secret part that signs somebody in once, without a password:
 * the first person, or the one with that address; ends with 3 where there is none. With --first it is one by which the
 * first person begins; ends with 3 where somebody has. Whoever can run it can read the database too.
 */
const NO_SUCH = 3;
const { values } = parseArgs({
  options: {
    address: { type: "string" },
    first: { type: "boolean", default: false },
    minutes: { type: "string", default: "60" },
  },
});
const url = process.env.DATABASE_URL;
const minutes = Number(values.minutes);
if (!url || !(minutes >= 1 && minutes <= 10_080))
  throw new Error("usage: DATABASE_URL=… sign-in [--first | --address A] [--minutes 1…10080]");
const db = openDatabase(url, 1);
const address = values.address ?? null;

async function make(): Promise<string | null> {
  if (values.first) return inviteFirst(db, minutes);
  const found = await personOf(db, address);
  return found && makeOnce(db, found.person, "in", minutes);
}
const link = await make();
if (link !== null) console.log(link);
else {
  const nobody = address === null ? "Nobody has begun here yet." : `Nobody signs in with ${address}.`;
  console.error(values.first ? "Somebody has begun here." : nobody);
  process.exitCode = NO_SUCH;
}
await db.close();
