import type * as z from "zod";

export interface Operation {
  readonly method: "get" | "post" | "patch" | "delete";
  readonly path: string;
  readonly summary: string;
  readonly query?: Readonly<Record<string, string>>;
  readonly body?: z.ZodType;
  readonly answer?: z.ZodType;
  readonly status?: number;
  /** Whether it is answered without anybody being signed in. */
  readonly open?: boolean;
  /** For answers and bodies that are not JSON. */
  readonly media?: string;
}
