import { afterAll, beforeAll, expect, test } from "vitest";
import { changeDeck, listDecks } from "@/server/act";
import { freshDatabase, type Fresh } from "./database";

/** Decks that several windows and programs change at once. */

let fresh: Fresh;
beforeAll(async () => {
  fresh = await freshDatabase();
});
afterAll(() => fresh.drop());

const pad = (code: "KeyQ" | "KeyW" | "KeyE", macro: number | null) => ({ layer: "plain" as const, code, macro });
const change = (number: number, one: NonNullable<Parameters<typeof changeDeck>[2]["change"]>) =>
  changeDeck(fresh.context, number, { change: one });
const deckOf = async (number: number) => (await listDecks(fresh.context)).find((deck) => deck.number === number);

test("what two windows put on different keys at the same moment is all there", async () => {
  await Promise.all([
    change(3, { pads: [pad("KeyQ", 1)] }),
    change(3, { pads: [pad("KeyW", 2)] }),
    change(3, { extra: [{ keys: "F6", macro: 3 }] }),
    change(3, { swipes: { "left-short": 4 } }),
    changeDeck(fresh.context, 3, { name: "Evening" }),
  ]);
  const deck = (await deckOf(3))!;
  expect(deck.pads.map(({ code, macro }) => `${code} ${macro}`).sort()).toEqual(["KeyQ 1", "KeyW 2"]);
  expect(deck).toMatchObject({ name: "Evening", extra: [{ keys: "F6", macro: 3 }], swipes: { "left-short": 4 } });
});

test("null frees a key or a swipe, and nothing else", async () => {
  const answer = await change(3, {
    pads: [pad("KeyQ", null), pad("KeyE", null)],
    extra: [{ keys: "F6", macro: null }],
    swipes: { "left-short": null, "right-long": 5 },
  });
  expect(answer).toEqual({
    number: 3,
    name: "Evening",
    pads: [{ layer: "plain", code: "KeyW", macro: 2 }],
    extra: [],
    swipes: { "right-long": 5 },
  });
  expect(await deckOf(3)).toEqual(answer);
});

test("lists that are given whole replace what is there, as programs had it before", async () => {
  await changeDeck(fresh.context, 3, { pads: [{ layer: "shift", code: "KeyZ", macro: 7 }] });
  expect(await deckOf(3)).toMatchObject({
    name: "Evening",
    pads: [{ layer: "shift", code: "KeyZ", macro: 7 }],
    swipes: { "right-long": 5 },
  });
});

test("keys of the frame are refused, freed they may be; a hundred and one keys are too many", async () => {
  await expect(change(3, { extra: [{ keys: "KeyJ", macro: 1 }] })).rejects.toMatchObject({
    status: 422,
    title: "Not a key for a macro",
  });
  await change(3, { extra: [{ keys: "KeyJ", macro: null }] });
  const keys = (from: number, to: number) =>
    Array.from({ length: to - from }, (_, i) => ({
      keys: `Alt+KeyM ${from + i < 50 ? "Alt+" : "Shift+"}Digit${(from + i) % 10} Key${String.fromCharCode(65 + Math.floor(((from + i) % 50) / 10))}`,
      macro: 1,
    }));
  await change(3, { extra: keys(0, 100) });
  const before = await deckOf(3);
  expect(before!.extra).toHaveLength(100);
  await expect(change(3, { extra: [{ keys: "F6", macro: 1 }] })).rejects.toMatchObject({ title: "Too many keys" });
  expect(await deckOf(3)).toEqual(before);
});
