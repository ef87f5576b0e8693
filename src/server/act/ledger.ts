import type { EntryShape } from "@/core/api";
import { listEntries } from "../store";
import type { Context } from "./context";
import { entryShapeOf } from "./runs";

export async function readLedger({ db, person }: Context, limit: number, before?: number): Promise<EntryShape[]> {
  return (await listEntries(db.sql, person, limit, before)).map(entryShapeOf);
}
