import { bigint, boolean, customType, timestamp } from "drizzle-orm/pg-core";

/** Columns that many tables have. The person leads every key. */
export const tsvector = customType<{ data: string }>({ dataType: () => "tsvector" });
export const bytea = customType<{ data: Uint8Array }>({ dataType: () => "bytea" });
export const person = () => bigint("person", { mode: "number" }).notNull();
export const id = (name = "id") => bigint(name, { mode: "number" }).notNull();
export const instant = (name: string) => timestamp(name, { withTimezone: true, precision: 3, mode: "date" });

/** What was removed stays as a row: taking the run back that removed it brings it back with its name. */
export const removal = () => ({ removed: boolean("removed").notNull().default(false) });
