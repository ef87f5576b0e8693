import { parseArgs } from "node:util";
import { openDatabase } from "../db";
import { makeOnce } from "../sign-in";
import { personOf } from "./context";

/**
 * `sign-in [--address A] [--minutes N]`: prints a link's secret part that signs somebody in once, without a password:
 * the first person, or the one with that address; ends with 3 where there is none. Whoever can run it can read the database too.
 */
const NOBODY = 3;
const { values } = parseArgs({ options: { address: { type: "string" }, minutes: { type: "string", default: "60" } } });
const url = process.env.DATABASE_URL;
const minutes = Number(values.minutes);
if (!url || !(minutes >= 1 && minutes <= 10_080))
  throw new Error("usage: DATABASE_URL=… sign-in [--address A] [--minutes 1…10080]");
const db = openDatabase(url, 1);
const address = values.address ?? null;
const found = await personOf(db, address);
if (found) console.log(await makeOnce(db, found.person, "in", minutes));
else {
  console.error(address === null ? "Nobody has begun here yet." : `Nobody signs in with ${address}.`);
  process.exitCode = NOBODY;
}
await db.close();
