import * as z from "zod";
import { longId as id, text } from "./parts";

/** Taking in what somebody else has made: macro packs. */

const name = text(80).trim().min(1, "give it a name");

const clash = z.enum(["both", "replace", "leave"]);
export const packRequest = z.strictObject({
  pack: text(2_000_000).describe("the document as text"),
  choices: z
    .strictObject({
      clashes: z.record(text(200), clash).optional(),
      folders: z.record(text(200), text(200)).optional().describe("missing folder to one that is here"),
      keys: z.boolean().optional(),
    })
    .default({}),
  dry: z.boolean().optional(),
});
export const packAnswer = z.object({
  macros: z.array(z.object({ name, replaces: id.nullable(), steps: z.string().describe("what it does, in words") })),
  folders: z.array(z.string()),
  labels: z.array(z.string()),
  markers: z.array(z.string()),
  templates: z.array(z.string()),
  keys: z.number().int().describe("how many keys are taken over"),
  rules: z.array(z.string()).describe("rules that come switched off, in words"),
  clashes: z.array(z.string()),
  missingFolders: z.array(z.string()),
  takenKeys: z.array(z.string()).describe("keys that are left, each with why"),
});
export type PackAnswer = z.infer<typeof packAnswer>;
