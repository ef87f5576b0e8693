import type { PersonId } from "@/core/id";
import type { Template } from "@/core/macro";
import type { Queryable } from "../db";

export interface StoredTemplate extends Template {
  readonly id: number;
  /** Where it stands among the others; "" for none. */
  readonly folder: string;
}

export const readTemplates = (sql: Queryable, person: PersonId): Promise<StoredTemplate[]> =>
  sql<StoredTemplate[]>`
    select id, name, folder, subject, body from template where person = ${person} order by folder, position, id`;
