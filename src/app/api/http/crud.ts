import type * as z from "zod";
import type { Operation } from "./operation";

/** The operations of things that are listed, made, changed and deleted. */
export const crud = (
  path: string,
  what: string,
  list: z.ZodType,
  fresh: z.ZodType,
  patch: z.ZodType,
  removal: Pick<Operation, "summary" | "query" | "answer" | "status"> = { summary: `Delete a ${what}`, status: 204 },
): Operation[] => [
  { method: "get", path, summary: `All ${what}s`, answer: list.array() },
  { method: "post", path, summary: `A new ${what}`, body: fresh, answer: list, status: 201 },
  { method: "patch", path: `${path}/{id}`, summary: `Change a ${what}`, body: patch, answer: list },
  { method: "delete", path: `${path}/{id}`, ...removal },
];
