import type { LaunchOptions } from "@playwright/test";

/** Of a plain program without types. */
const { launching } = (await import("../../scripts/setup/browser.mjs" as string)) as { launching: () => LaunchOptions };
export const CHROMIUM = launching();
