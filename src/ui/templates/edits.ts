import type { TemplateShape } from "@/core/api";
import { EMPTY_DOC } from "@/core/letter";
import { editsOf, inHome } from "../state/keepsakes";
import { view } from "../state/store";

/** Changes of templates, each of which is taken back by one key. What is written in them is stored by itself. */

const ofTemplates = editsOf<TemplateShape>({ path: "/templates", ...inHome("templates") });

/** Names of those that are being made: two quick keys make two. */
const coming = new Set<string>();
function freshName(): string {
  const names = new Set((view().home?.templates ?? []).map(({ name }) => name.toLowerCase()));
  for (let n = 1; ; n++) if (!names.has(`template ${n}`) && !coming.has(`Template ${n}`)) return `Template ${n}`;
}

/** @returns its number; null where it could not be made */
export async function makeTemplate(): Promise<number | null> {
  const name = freshName();
  coming.add(name);
  const made = await ofTemplates.make({ name, folder: "", subject: "", body: EMPTY_DOC }, `Made “${name}”`);
  coming.delete(name);
  return made?.id ?? null;
}

export const removeTemplate = (one: TemplateShape): Promise<boolean> =>
  ofTemplates.remove(one, `Deleted “${one.name}”`);

export const renameTemplate = (one: TemplateShape, name: string): Promise<boolean> =>
  ofTemplates.change(one, { name }, `Renamed to “${name}”, in macros too`);

export const putTemplate = (one: TemplateShape, folder: string): Promise<boolean> =>
  ofTemplates.change(
    one,
    { folder },
    folder === "" ? `Put “${one.name}” into no folder` : `Put “${one.name}” into ${folder}`,
  );
