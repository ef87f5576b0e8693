import { expect, onTestFinished, test } from "vitest";
import { createFolder, createMacro, createRule } from "@/server/act";
import { letter, startMailService } from "../fixtures/mail-service";
import { Sides } from "./sides";

/** Rules, and mail that comes from a stock server. */

test("rules look at what comes after the first time, not at what was there; what they do, the server has too", async () => {
  const service = await startMailService(["rules"]);
  onTestFinished(() => service.end());
  const sides = await Sides.open(service, "rules");
  onTestFinished(() => sides.end());
  const { context } = sides.fresh;
  await sides.fill(2);
  const make = async (name: string, steps: object[]) =>
    (await createMacro(context, { name, colour: "spruce", steps, settings: {} } as never)).id;
  const read = await make("Only read", [{ do: "read" }]);
  const file = await make("To the wardens", [{ do: "move", to: "Wardens/Rota" }]);
  await createFolder(context, { path: "Wardens/Rota" });
  await createRule(context, { narrow: "", macro: read, on: true, stop: false });
  await createRule(context, { narrow: 'subject~"4"', macro: file, on: true, stop: false });
  await sides.connect();
  await sides.see();
  expect((await sides.here()).map(({ path, bits }) => [path, bits])).toEqual([
    ["Inbox", 0],
    ["Inbox", 0],
  ]);
  await sides.bare.append("INBOX", letter(3));
  await sides.bare.append("INBOX", letter(4));
  await sides.see();
  await sides.see();
  expect((await sides.here()).slice(2).map(({ path, bits }) => [path, bits])).toEqual([
    ["Inbox", 1],
    ["Wardens/Rota", 1],
  ]);
  expect((await sides.there("INBOX")).filter((line) => line.includes("Seen"))).toEqual(["<m3@post.example> \\Seen"]);
  expect(await sides.there("Wardens/Rota")).toEqual(["<m4@post.example> \\Seen"]);
  sides.changing();
  await sides.see();
  expect(sides.changing()).toEqual([]);
});
