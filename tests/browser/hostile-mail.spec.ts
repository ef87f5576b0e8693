import { HOSTILE_MAIL } from "../fixtures/hostile-mail";
import { expect, openBench, test, type App } from "./app";

/** Mail that wishes its reader ill: nothing of it runs, and nothing of it asks a server for anything. */

const NAMES = Object.keys(HOSTILE_MAIL);
const END = "the end of it";

async function bringIn(app: App): Promise<void> {
  const mail = NAMES.map((name, i) => {
    const html = Buffer.from(`${HOSTILE_MAIL[name]}<p>${END}</p>`).toString("base64");
    const lines = html.match(/.{1,76}/g)!.join("\n");
    const date = new Date(Date.now() - i * 60_000).toUTCString();
    return `From ill@post.example Mon Nov  2 09:00:00 2026\nFrom: ill@post.example\nSubject: ${name}\nMessage-ID: <ill${i}@post.example>\nDate: ${date}\nMIME-Version: 1.0\nContent-Type: text/html; charset=utf-8\nContent-Transfer-Encoding: base64\n\n${lines}\n\n`;
  }).join("");
  await app.fetch(`/import?folder=Ill&name=ill.mbox`, { method: "POST", body: mail });
  await expect.poll(() => app.count("folder=Ill")).toBe(NAMES.length);
}

test("of hostile mail nothing runs, and nothing is asked for", async ({ page, app, context }) => {
  await bringIn(app);
  const asked: string[] = [];
  const opened: string[] = [];
  const faults: string[] = [];
  page.on("request", (request) => {
    const url = request.url();
    const isInside = request.frame() !== page.mainFrame();
    if (/^(data|blob|about):/.test(url)) return;
    if (!url.startsWith(app.address) || isInside || url.includes("reached")) asked.push(url);
  });
  context.on("page", (other) => opened.push(other.url()));
  page.on("dialog", (dialog) => void dialog.dismiss().then(() => faults.push("a dialog")));
  page.on("framenavigated", (frame) => {
    const isBench = frame.url() === `${app.address}/`;
    if (frame === page.mainFrame() && !isBench) faults.push(`went to ${frame.url()}`);
  });
  await openBench(page, app);
  await page.keyboard.press(";");
  await page.keyboard.type("Ill");
  await page.keyboard.press("Enter");
  await expect(page.getByRole("dialog")).toHaveCount(0);
  const frame = page.frameLocator("iframe[title='Message text']");
  for (const name of NAMES) {
    await expect(page.locator("[data-focused]")).toContainText(name);
    await expect(page.getByRole("heading", { name, exact: true })).toBeVisible();
    // While the frame goes to its page, there is nothing in it to look at.
    await expect(async () => {
      const left = await frame
        .locator(
          "script, iframe, frame, object, embed, form, input, button, svg, math, link, meta:not([charset]):not([http-equiv]), base, portal",
        )
        .evaluateAll((elements) => elements.map((element) => element.outerHTML.slice(0, 80)));
      expect([name, left]).toEqual([name, []]);
      const handlers = await frame
        .locator("body")
        .evaluate((body) =>
          [body, ...body.querySelectorAll("*")].flatMap((element) =>
            [...element.attributes]
              .filter(({ name: of, value }) => /^on/i.test(of) || /^\s*(?:javascript|vbscript|data:text)/i.test(value))
              .map(({ name: of, value }) => `${of}=${value.slice(0, 60)}`),
          ),
        );
      expect([name, handlers]).toEqual([name, []]);
    }).toPass();
    expect([name, await page.evaluate(() => (window as { hacked?: number }).hacked)]).toEqual([name, undefined]);
    // Keys are the app's: nothing in the mail takes them.
    await page.keyboard.press("j");
  }
  expect(asked).toEqual([]);
  expect([...opened, ...faults]).toEqual([]);
});
