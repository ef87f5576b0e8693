import type { z } from "zod";
import type { newTemplate, templatePatch, TemplateShape } from "@/core/api";
import { inTurn, notFound, readTemplates } from "../run";
import { tell } from "../store";
import type { Context } from "./context";
import { orTaken } from "./taken";
import { bringBack, takeOut } from "./taken-out";

/** Texts that are written again and again. */

export const listTemplates = ({ db, person }: Context): Promise<TemplateShape[]> => readTemplates(db.sql, person);

export async function createTemplate(context: Context, body: z.infer<typeof newTemplate>): Promise<TemplateShape> {
  const { db, person } = context;
  return inTurn(db, person, async (tx) => {
    const [row] = await orTaken(
      "template",
      body.name,
      () => tx<{ id: number }[]>`
        insert into template (person, name, folder, subject, body, position)
        values (${person}, ${body.name}, ${body.folder}, ${body.subject}, ${JSON.stringify(body.body)}::text::jsonb,
          (select coalesce(max(position), 0) + 1 from template where person = ${person})) returning id`,
    );
    await tell(tx, person, "settings");
    return { id: row!.id, ...body };
  });
}

/** Macros name templates by their names: one that is renamed takes them along. */
async function renameInMacros(tx: Parameters<typeof readTemplates>[0], person: number, from: string, to: string) {
  const macros = await tx<{ id: number; steps: unknown }[]>`
    select id, steps from macro where person = ${person} and steps::text like '%"template"%'`;
  const renamed = (value: unknown): unknown => {
    if (Array.isArray(value)) return value.map(renamed);
    if (typeof value !== "object" || value === null) return value;
    return Object.fromEntries(
      Object.entries(value).map(([key, inner]) => [key, key === "template" && inner === from ? to : renamed(inner)]),
    );
  };
  for (const { id, steps } of macros)
    await tx`
      update macro set steps = ${JSON.stringify(renamed(steps))}::text::jsonb where person = ${person} and id = ${id}`;
}

export async function changeTemplate(
  context: Context,
  id: number,
  { deleted, ...body }: z.infer<typeof templatePatch>,
): Promise<TemplateShape> {
  const { db, person } = context;
  return inTurn(db, person, async (tx) => {
    if (deleted === false) await bringBack(tx, "template", person, id);
    const old = (await readTemplates(tx, person)).find((one) => one.id === id);
    if (!old) throw notFound("template", id);
    const fields = Object.fromEntries(Object.entries(body).filter(([, value]) => value !== undefined));
    const next = { ...old, ...fields } as TemplateShape;
    await orTaken(
      "template",
      next.name,
      () => tx`
        update template set name = ${next.name}, folder = ${next.folder}, subject = ${next.subject},
          body = ${JSON.stringify(next.body)}::text::jsonb where person = ${person} and id = ${id}`,
    );
    if (next.name !== old.name) await renameInMacros(tx, person, old.name, next.name);
    await tell(tx, person, "settings");
    return next;
  });
}

export async function deleteTemplate({ db, person }: Context, id: number): Promise<void> {
  await inTurn(db, person, async (tx) => {
    if (!(await takeOut(tx, "template", person, id))) throw notFound("template", id);
    await tell(tx, person, "settings");
  });
}
