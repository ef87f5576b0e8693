import type { PersonId } from "@/core/id";
import type { Queryable } from "../db";
import { nameColumns, namesOf, type NameRows, type Names } from "./directory";
import { macrosOf, type MacroRow, type StoredMacro } from "./macros";
import { settingsOf, type Settings } from "./settings";
import type { StoredTemplate } from "./templates";

/** What a person has made that plans look at. */
export interface World {
  readonly names: Names;
  readonly macros: readonly StoredMacro[];
  readonly templates: readonly StoredTemplate[];
  readonly settings: Settings;
}

type Row = NameRows & {
  readonly macros: readonly MacroRow[];
  readonly templates: readonly StoredTemplate[];
  readonly settings: Partial<Settings>;
};

/** All of it in one question: each key asks it, and a question costs more than what it reads. */
export async function readWorld(sql: Queryable, person: PersonId): Promise<World> {
  const [row] = await sql<Row[]>`
    select ${nameColumns(sql, person, sql`, 'steps', steps, 'settings', settings`)},
      (select coalesce(jsonb_agg(jsonb_build_object('id', id, 'name', name, 'folder', folder, 'subject', subject, 'body', body)
          order by folder, position, id), '[]')
        from template where person = ${person}) as templates,
      (select settings from person where id = ${person}) as settings`;
  const names = namesOf(row!);
  return {
    names,
    macros: macrosOf(row!.macros, names.nameOf),
    templates: row!.templates,
    settings: settingsOf(row!.settings),
  };
}
