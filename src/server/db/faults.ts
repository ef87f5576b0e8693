/** PostgreSQL's codes (SQLSTATE) for a database that is there and takes nothing in. */
const TAKES_NOTHING: Readonly<Record<string, "full" | "read-only" | "busy">> = {
  "53100": "full",
  "53200": "busy",
  "53300": "busy",
  "53400": "busy",
  "25006": "read-only",
};

/** Why the database takes nothing in now, where that is what an error says; it is no fault of what was to be stored. */
export function takesNothing(error: unknown): "full" | "read-only" | "busy" | null {
  const { code, cause } = (error ?? {}) as { code?: unknown; cause?: { code?: unknown } };
  return TAKES_NOTHING[String(code ?? cause?.code ?? "")] ?? null;
}

/** What is only noted by the way: a database that takes nothing in can be read all the same. */
export const noteIfItCan = (note: Promise<unknown>): Promise<unknown> =>
  note.catch((error: unknown) => {
    if (takesNothing(error) === null) throw error;
  });
