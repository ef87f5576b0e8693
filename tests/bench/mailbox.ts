import { cpus, totalmem } from "node:os";
import { personId } from "@/core/id";
import { begin, type Context } from "@/server/act";
import { migrateDatabase, openDatabase, type Database } from "@/server/db";

/** @returns a mailbox with nothing in it, in a database that has nothing in it */
export async function emptyMailbox(url: string, migrations: string, connections: number): Promise<Context> {
  await migrateDatabase(url, migrations);
  const db = openDatabase(url, connections);
  const { person } = await begin(db, {
    name: "x",
    address: "x@post.example",
    aliases: [],
    zone: "Europe/Zurich",
    folders: [],
    labels: [["Invoice", "amber"]],
  });
  return { db, person: personId(person), zone: "Europe/Zurich" };
}

/** What it was measured on. */
export async function machineOf({ sql }: Database): Promise<string> {
  const [version] = await sql<{ v: string }[]>`select current_setting('server_version') as v`;
  return `${cpus().length} × ${cpus()[0]?.model ?? "?"}, ${Math.round(totalmem() / 2 ** 30)} GiB, Node ${process.versions.node}, PostgreSQL ${version?.v}`;
}
