import { and, eq, sql as raw } from "drizzle-orm";
import type { z } from "zod";
import type { labelPatch, newLabel } from "@/core/api";
import { labelTable } from "../db";
import { notFound, type Context } from "./context";
import { readDirectory, tellOfSettings } from "./directory";
import { followRenaming } from "./follow";
import { cleanPath, orTaken } from "./taken";

export async function createLabel(context: Context, body: z.infer<typeof newLabel>) {
  const { db, person } = context;
  const name = cleanPath(body.name);
  const [row] = await orTaken("label", name, () =>
    db.orm.insert(labelTable).values({ person, name, colour: body.colour }).returning(),
  );
  await tellOfSettings(db.sql, context);
  return { id: row!.id, name, colour: body.colour };
}

export async function changeLabel(context: Context, id: number, body: z.infer<typeof labelPatch>) {
  const { db, person } = context;
  const old = (await readDirectory(context)).labels.find((label) => label.id === id);
  if (!old) throw notFound("label", id);
  const next = { name: body.name === undefined ? old.name : cleanPath(body.name), colour: body.colour ?? old.colour };
  const where = and(eq(labelTable.person, person), eq(labelTable.id, id));
  await orTaken("label", next.name, () => db.orm.update(labelTable).set(next).where(where));
  if (next.name !== old.name)
    // Labels below it go with it.
    await orTaken("label", next.name, () =>
      db.orm
        .update(labelTable)
        .set({ name: raw`${next.name}::text || substr(${labelTable.name}, ${old.name.length + 1})` })
        .where(
          and(
            eq(labelTable.person, person),
            eq(labelTable.removed, false),
            raw`left(lower(${labelTable.name}), ${old.name.length + 1}) = lower(${`${old.name}/`})`,
          ),
        ),
    );
  if (next.name !== old.name) await followRenaming(context, { what: "label", from: old.name, to: next.name });
  await tellOfSettings(db.sql, context);
  return { id, ...next };
}
