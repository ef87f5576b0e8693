import { expect, focusedId, notice, openBench, test, type App } from "./app";
import { axe } from "./axe";

/** What does not fit about a message: said in list and reader, narrowed by, reported, and learned as junk. */

const mail = (n: number, from: string, more = "", body = "Hello.") =>
  `From x@y.example Fri Nov 27 00:00:00 2026\r\nFrom: ${from}\r\nTo: bookings@larchhuts.example\r\nSubject: Fallbeispiel ${n}\r\n` +
  `Date: ${new Date().toUTCString().replace("GMT", "+0000")}\r\nMessage-ID: <case${n}@cases.example>\r\n${more}\r\n${body}\r\n\r\n`;

async function bring(app: App, mbox: string, count: number): Promise<void> {
  await app.fetch(`/import?folder=Inbox`, { method: "POST", body: mbox });
  await expect.poll(() => app.count("subject~fallbeispiel")).toBe(count);
}

test("a message made to deceive says why above its words, is found by it, and is reported once", async ({
  page,
  app,
}) => {
  await app.fetch(`/contacts`, {
    method: "POST",
    headers: { "content-type": "application/json" },
    body: JSON.stringify({ address: "ines@larch.example", name: "Ines Okafor" }),
  });
  const html = "Content-Type: text/html\r\nReply-To: x@other.example\r\n";
  await bring(
    app,
    mail(
      1,
      "Ines Okafor <ines@1arch.example>",
      html,
      '<p>Pay at <a href="https://evil.example">larch.example</a></p>',
    ) + mail(2, "Ines Okafor <ines@larch.example>"),
    2,
  );
  await openBench(page, app);
  await page.keyboard.press("/");
  await page.keyboard.type("suspect subject~fallbeispiel");
  await page.keyboard.press("Enter");
  await expect(page.getByTestId("count")).toContainText("1 message");
  await expect(page.locator("[data-focused]")).toContainText("suspect");
  const said = page.getByRole("region", { name: "What does not fit" });
  await expect(said.getByRole("listitem")).toHaveCount(4);
  await expect(said).toContainText("larch.example” leads to evil.example");
  await expect(said).toContainText("1arch.example reads like larch.example");
  await expect(said).toContainText("you know Ines Okafor as ines@larch.example");
  await expect(said).toContainText("answers would go to x@other.example");
  await axe(page, "a message that warns");
  // Reported by the second deck; the simulated service has it once it was held back.
  await app.fetch(`/settings`, {
    method: "PATCH",
    headers: { "content-type": "application/json" },
    body: JSON.stringify({ holdSeconds: 0 }),
  });
  const id = (await focusedId(page))!;
  await page.keyboard.press("2");
  await page.keyboard.press("Shift+B");
  await expect.poll(async () => (await app.get<{ folder: string }>(`/messages/${id}`)).folder).toBe("Junk");
  await expect(notice(page)).toContainText("Report as deceit");
});

test("what is junk is learned from verdicts, told in the reader and put in order by", async ({ page, app }) => {
  const pests = Array.from({ length: 14 }, (_, n) =>
    mail(n, "Pest <pest@pests.example>", "", "cheap pills and gutters for winners"),
  ).join("");
  await bring(app, pests, 14);
  await openBench(page, app);
  await page.keyboard.press("/");
  await page.keyboard.type("from~pests");
  await page.keyboard.press("Enter");
  await expect(page.getByTestId("count")).toContainText("14 messages");
  await page.keyboard.press("2");
  for (let i = 0; i < 12; i++) await page.keyboard.press("z");
  await expect.poll(() => app.count("from~pests folder=Junk")).toBe(12);
  const state = async () => (await app.get<{ due: number }>("/filing")).due;
  await expect.poll(state, { timeout: 60_000 }).toBe(0);
  // The last two are not decided about.
  await page.keyboard.press("End");
  await expect(page.getByTestId("likely-junk")).toContainText(/Probably junk: [5-9]\d %/);
  // In the whole inbox they are the likeliest.
  await page.keyboard.press("Escape");
  await page.goto(app.address);
  await expect(page.locator("[data-place]").first()).toBeVisible();
  await page.getByRole("button", { name: "newest first" }).click();
  await page.keyboard.type("likeliest junk");
  await page.keyboard.press("Enter");
  await expect(page.locator("[data-id]").first()).toContainText("Pest");
  await expect(page.locator("[data-id]").first()).toContainText(/junk \d+ %/);
});
