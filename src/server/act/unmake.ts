import { plural } from "@/core/text";
import { inTurn, notFound, readDirectory, Refusal } from "../run";
import { tell } from "../store";
import type { Context } from "./context";
import { readCounts } from "./counts";
import { refuseWhileImporting } from "./remove";
import { orTaken } from "./taken";

/**
 * A folder or label that has just been made is taken back, and made again as the same one. No mail is in it, so this is
 * no run, and the last run stays what undo of mail means.
 */
type Kind = "folder" | "label";

const stillUsed = (kind: Kind, name: string, why: string): Refusal =>
  new Refusal(409, "In use by now", `The ${kind} "${name}" stays: ${why}. Remove it where it is listed.`);

async function unmake({ db, person }: Context, kind: Kind, id: number): Promise<void> {
  await inTurn(db, person, async (tx) => {
    const { folders, labels } = await readDirectory(tx, person);
    const all = [...(kind === "folder" ? folders : labels)].map((one) => ({
      id: one.id as number,
      name: "path" in one ? one.path : one.name,
    }));
    const name = all.find((one) => one.id === id)?.name;
    if (name === undefined) throw notFound(kind, id);
    const below = all.filter((one) => one.name.toLowerCase().startsWith(`${name.toLowerCase()}/`)).length;
    if (below > 0) throw stillUsed(kind, name, `it holds ${plural(below, kind)}`);
    const folder = kind === "folder" ? folders.find((one) => one.id === id)! : null;
    if (folder?.role) throw stillUsed(kind, name, `it serves as ${folder.role}`);
    if (folder) await refuseWhileImporting(tx, person, [folder]);
    const [on] = await tx<{ count: number }[]>`
      select count(*)::int as count from message_state where person = ${person} and labels @> array[${id}::int]`;
    const count = folder ? ((await readCounts(tx, person)).get(folder.id)?.total ?? 0) : on!.count;
    if (count > 0)
      throw stillUsed(
        kind,
        name,
        `${count === 1 ? "there is" : "there are"} ${plural(count, "message")} ${folder ? "in" : "with"} it`,
      );
    await tx`update ${tx(kind)} set removed = true where person = ${person} and id = ${id}`;
    await tell(tx, person, "settings");
  });
}

async function makeAgain({ db, person }: Context, kind: Kind, id: number): Promise<void> {
  await inTurn(db, person, async (tx) => {
    const name = kind === "folder" ? "path" : "name";
    const [gone] = await tx<{ name: string }[]>`
      select ${tx(name)} as name from ${tx(kind)} where person = ${person} and id = ${id}`;
    if (!gone) throw notFound(kind, id);
    await orTaken(
      kind,
      gone.name,
      () => tx`update ${tx(kind)} set removed = false where person = ${person} and id = ${id}`,
    );
    await tell(tx, person, "settings");
  });
}

/** @throws Refusal where something is in it by now, or its name is another's */
export const setGone = (context: Context, kind: Kind, id: number, isGone: boolean): Promise<void> =>
  (isGone ? unmake : makeAgain)(context, kind, id);
