import * as z from "zod";

/** How a macro is run, beside what its steps do. */
export const settingsSchema = z
  .strictObject({
    for: z.string().trim().max(2000).optional().describe("which messages it is for, as a narrowing"),
    whole: z.literal("thread").optional().describe("acts on the whole threads of the messages"),
    confirm: z
      .union([z.literal("never"), z.literal("always"), z.number().int().min(1).max(1_000_000)])
      .optional()
      .describe("when it asks before it runs: never, always, or above so many messages"),
    focus: z.enum(["next", "previous", "stay", "back"]).optional().describe("where the focus goes afterwards"),
    unattended: z.literal(true).optional().describe("may run without anybody watching, from a rule"),
  })
  .default({});

export type Settings = Readonly<z.infer<typeof settingsSchema>>;
export type Focus = NonNullable<Settings["focus"]>;

/** A macro that says nothing else asks above so many messages. */
export const CONFIRM_ABOVE = 500;

/**
 * Whether a run asks first: when it cannot be taken back, whatever the settings say; else as they say.
 * @param messages how many it would change
 */
export function mustConfirm(settings: Settings, messages: number, irreversible: boolean): boolean {
  if (irreversible) return messages > 0;
  const { confirm = CONFIRM_ABOVE } = settings;
  if (confirm === "never") return false;
  return confirm === "always" ? messages > 0 : messages > confirm;
}
