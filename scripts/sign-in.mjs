import { build } from "./build.mjs";
import { ownDatabase } from "./setup/own-database.mjs";
import { ensurePackages } from "./setup/packages.mjs";
import { main, Trouble } from "./setup/say.mjs";
import { makeLink } from "./setup/sign-in.mjs";

/** npm run sign-in -- [--address A] [--minutes N]: a link that signs somebody in once; TACHYNE_DATA as for import. */
await main(async () => {
  await ensurePackages();
  await build();
  const link = makeLink({ DATABASE_URL: await ownDatabase() }, ...process.argv.slice(2));
  if (link === null) throw new Trouble("Nobody signs in with that address, or nobody has begun here yet.");
  console.log(`Behind the app's address: /sign-in#link=${link}`);
});
