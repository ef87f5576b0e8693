import type * as z from "zod";

export interface Operation {
  readonly method: "get" | "post" | "patch" | "delete";
  readonly path: string;
  readonly summary: string;
  readonly query?: Readonly<Record<string, string>>;
  readonly body?: z.ZodType;
  readonly answer?: z.ZodType;
  readonly status?: number;
  /** For answers and bodies that are not JSON. */
  readonly media?: string;
}
