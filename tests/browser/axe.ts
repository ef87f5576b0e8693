import AxeBuilder from "@axe-core/playwright";
import { expect, type Page } from "@playwright/test";

/** Rules that colours decide: what else a screen is does not change with the theme. */
export const OF_COLOURS = ["color-contrast", "link-in-text-block"];

/**
 * The screen, as axe sees it: nothing is wrong with it for whoever reads it otherwise. Mail itself, in its frame, is
 * its sender's.
 * @param what said of whatever is wrong
 * @param rules only these; all where none are named
 */
export async function axe(page: Page, what: string, rules: readonly string[] = []): Promise<void> {
  const builder = new AxeBuilder({ page }).exclude("iframe").options({ resultTypes: ["violations"] });
  if (rules.length > 0) builder.withRules([...rules]);
  // Without frames there is nothing to put together, for which it would open another page each time.
  const { violations } = await builder.setLegacyMode().analyze();
  expect(violations.map((v) => `${what}: ${v.id}: ${v.nodes.map((n) => n.html.slice(0, 200)).join(" | ")}`)).toEqual(
    [],
  );
}
