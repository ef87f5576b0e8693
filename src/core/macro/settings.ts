import * as z from "zod";

/** How a macro is run, beside what its steps do. */
export const settingsSchema = z
  .strictObject({
    for: z.string().trim().max(2000).optional().describe("which messages it is for, as a narrowing"),
    whole: z
      .enum(["thread", "thread everywhere"])
      .optional()
      .describe(
        "acts on the threads of the messages: what of them is in the same folders, the person's own mail left alone; or all of it, wherever it is",
      ),
    confirm: z
      .union([z.literal("never"), z.literal("always"), z.number().int().min(1).max(1_000_000)])
      .optional()
      .describe("when it asks before it runs: never, always, or above so many messages"),
    focus: z.enum(["next", "previous", "stay", "back"]).optional().describe("where the focus goes afterwards"),
    held: z.literal(true).optional().describe("its key, held down, goes on deciding; else it decides once a press"),
    unattended: z.literal(true).optional().describe("may run without anybody watching, from a rule"),
  })
  .default({});

export type Settings = Readonly<z.infer<typeof settingsSchema>>;
export type Focus = NonNullable<Settings["focus"]>;

/** A macro that says nothing else asks above so many messages. */
export const CONFIRM_ABOVE = 500;
/** And above so many messages that were not chosen but belong to the threads of those that were. */
export const CONFIRM_BEYOND = 5;

/**
 * Whether a run asks first: when it cannot be taken back, whatever the settings say; else as they say.
 * @param messages how many it would change
 * @param beyond how many of those it is on were not chosen themselves
 * @param above how many are asked about where the macro says nothing
 */
export function mustConfirm(
  settings: Settings,
  messages: number,
  irreversible: boolean,
  beyond = 0,
  above = CONFIRM_ABOVE,
): boolean {
  if (irreversible) return messages > 0;
  const { confirm } = settings;
  if (confirm === "never") return false;
  if (confirm === undefined) return messages > above || (messages > 0 && beyond > CONFIRM_BEYOND);
  return confirm === "always" ? messages > 0 : messages > confirm;
}
