import { expect, test } from "./app";

/** Of scripts that stand in a page those alone run that were built into it. */

const PAGES = [
  "/",
  "/agenda",
  "/accounts",
  "/compose",
  "/contacts",
  "/contacts?of=ines@larch.example",
  "/import",
  "/ledger",
  "/message/1",
  "/pace",
  "/places",
  "/rules",
  "/senders",
  "/tasks",
  "/templates",
  "/workshop",
  "/you",
  "/sign-in",
  "/no such page",
];

declare global {
  interface Window {
    refused?: string[];
    ran?: boolean;
  }
}

test("every page runs under a policy that lets no other script in, and has nothing refused itself", async ({
  page,
  app,
}) => {
  await page.addInitScript(() => {
    window.refused = [];
    addEventListener("securitypolicyviolation", (event) =>
      window.refused!.push(`${event.violatedDirective} ${event.blockedURI} ${event.sample}`),
    );
  });
  for (const path of PAGES) {
    const answer = (await page.goto(app.address + path))!;
    const policy = answer.headers()["content-security-policy"]!;
    const scripts = policy.split("; ").find((one) => one.startsWith("script-src "))!;
    expect(scripts, path).toMatch(/^script-src 'self'( '(sha256|nonce)-[\w+/=]+')+$/);
    // Once a program of the page has drawn something, all that stands in it was read.
    await expect(page.getByRole("heading", { level: 1 }).first(), path).toBeVisible();
    expect(await page.evaluate(() => window.refused), path).toEqual([]);
    const ran = await page.evaluate(async () => {
      const script = document.createElement("script");
      script.textContent = "window.ran = true";
      document.head.append(script);
      const picture = document.createElement("img");
      picture.setAttribute("onerror", "window.ran = true");
      await new Promise((done) => {
        picture.addEventListener("error", done);
        picture.src = "data:,none";
      });
      return window.ran ?? false;
    });
    expect(ran, path).toBe(false);
  }
});

test("the word that lets scripts of a page in is another one each time", async ({ app }) => {
  const nonce = async () =>
    /'nonce-([^']+)'/.exec((await fetch(`${app.address}/contacts`)).headers.get("content-security-policy")!)![1]!;
  const [first, second] = [await nonce(), await nonce()];
  expect(first).not.toBe(second);
  expect(Buffer.from(first, "base64")).toHaveLength(16);
});
