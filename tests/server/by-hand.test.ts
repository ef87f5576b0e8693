import { randomUUID } from "node:crypto";
import { afterAll, beforeAll, expect, test } from "vitest";
import { runId } from "@/core/id";
import { blockSender, listBlocked, readLedger, runMacro, takeBack, unblockSender } from "@/server/act";
import { fillWithMessages, freshDatabase, type Fresh } from "./database";

let fresh: Fresh;
beforeAll(async () => void (fresh = await freshDatabase()));
afterAll(() => fresh.drop());

const blocked = async () => (await listBlocked(fresh.context)).map(({ address }) => address);
const newest = async () => (await readLedger(fresh.context, { limit: 1 }))[0]!;

test("senders are blocked and let go by hand, each an entry that is taken back like a run", async () => {
  expect(await blocked()).toEqual([]);
  expect(await blockSender(fresh.context, { address: "Ads@Shop.example" })).toEqual({ address: "ads@shop.example" });
  await blockSender(fresh.context, { address: "a@b.example" });
  expect(await blocked()).toEqual(["a@b.example", "ads@shop.example"]);
  expect(await newest()).toMatchObject({ actor: "person", kind: "run", macro: { name: "Block a@b.example" } });
  const { id: last } = await newest();
  // What is so already is no entry.
  await blockSender(fresh.context, { address: "A@B.example" });
  expect((await newest()).id).toBe(last);

  await unblockSender(fresh.context, "ADS@shop.example");
  expect(await blocked()).toEqual(["a@b.example"]);
  const unblocking = await newest();
  expect(unblocking.macro.name).toBe("Unblock ads@shop.example");
  await takeBack(fresh.context, "undo", runId(unblocking.id));
  expect(await blocked()).toEqual(["a@b.example", "ads@shop.example"]);
  await takeBack(fresh.context, "undo", runId(last));
  expect(await blocked()).toEqual(["ads@shop.example"]);
  await expect(unblockSender(fresh.context, "nobody@x.example")).rejects.toMatchObject({ status: 404 });
});

test("what a macro blocked is in the same list, and is let go from there", async () => {
  const [id] = await fillWithMessages(fresh, 1);
  await runMacro(fresh.context, {
    id: randomUUID(),
    macro: { name: "Block", steps: [{ do: "block sender" }] },
    target: { ids: [id!] },
  } as never);
  const [address] = (await blocked()).filter((one) => one !== "ads@shop.example");
  expect(address).toMatch(/^s\d@post\.example$/);
  await unblockSender(fresh.context, address!);
  expect(await blocked()).toEqual(["ads@shop.example"]);
});
