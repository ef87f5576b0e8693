import { build } from "./build.mjs";
import { ownDatabase } from "./setup/own-database.mjs";
import { ensurePackages } from "./setup/packages.mjs";
import { main, Trouble } from "./setup/say.mjs";
import { firstAddress, linkAddress, makeLink } from "./setup/sign-in.mjs";

/**
 * npm run sign-in -- [--address A] [--minutes N]: a link that signs somebody in once, or by which the first person
 * begins; TACHYNE_DATA as for import.
 */
await main(async () => {
  // A server of one's own has been built, and may have nothing left to build with.
  if (!process.env.DATABASE_URL) {
    await ensurePackages();
    await build();
  }
  const env = { DATABASE_URL: await ownDatabase() };
  const [options, address = "Behind the app's address: "] = [process.argv.slice(2), process.env.TACHYNE_ORIGIN];
  const link = makeLink(env, ...options);
  if (link !== null) return console.log(linkAddress(address, link));
  const first = options.includes("--address") ? null : makeLink(env, "--first", ...options);
  if (first === null) throw new Trouble("Nobody signs in with that address.");
  console.log(`Nobody has begun here yet. The first person begins by\n${firstAddress(address, first)}`);
});
