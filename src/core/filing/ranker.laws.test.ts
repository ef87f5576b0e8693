import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { byProject, drifting, manySmall } from "../../../tests/filing/habits";
import { blend, lastFolder } from "../../../tests/filing/methods";
import { prequential } from "../../../tests/filing/prequential";
import { filingMail } from "../../../tests/fixtures/filing";
import { folderId } from "../id";
import { Ranker, type FilingMail, type Receipt } from ".";

const DAY_MS = 86_400_000;
const START = Date.parse("2026-01-05T09:00:00Z");

const arbMail: fc.Arbitrary<FilingMail> = fc.record({
  from: fc.constantFrom("ines@larch.example", "Bo@larch.example", "far@tarn.example", ""),
  to: fc.subarray(["a@huts.example", "b@huts.example"]),
  via: fc.subarray(["desk@huts.example", "wardens@huts.example"]),
  list: fc.constantFrom("", "ridge.notes"),
  subject: fc.constantFrom("Beds for six", "Invoice CHF 12.50", "Re: Beds on 12 Dec", ""),
  words: fc.subarray(["the stove smokes", "six beds please", "Zürich"]),
  files: fc.subarray(["plan.pdf", "list.CSV", "noending"]),
  thread: fc.subarray([folderId(1), folderId(2)]),
  dateMs: fc.integer({ min: 0, max: 500 }).map((day) => START + day * DAY_MS),
});
const arbFiling = fc.record({ mail: arbMail, folder: fc.integer({ min: 1, max: 4 }).map(folderId) });
const textOf = (ranker: Ranker): string => JSON.stringify(ranker);

/** Files of plain habits: one sender, one folder. */
const from = (address: string, more: Partial<FilingMail> = {}): FilingMail =>
  filingMail(address, { dateMs: START, ...more });
const [BOOKINGS, WARDENS, LISTS] = [folderId(1), folderId(2), folderId(3)];

describe("what is taken back leaves nothing behind", () => {
  test("filings unlearned in any order, among others that stay", () => {
    fc.assert(
      fc.property(
        fc.array(arbFiling, { maxLength: 8 }),
        fc.array(arbFiling, { maxLength: 8 }),
        fc.array(fc.nat(), { minLength: 8, maxLength: 8 }),
        (before, taken, order) => {
          const ranker = new Ranker();
          for (const { mail, folder } of before) ranker.learn(mail, folder, mail.dateMs);
          const known = textOf(ranker);
          const receipts = taken.map(({ mail, folder }) => ranker.learn(mail, folder, mail.dateMs));
          const left = [...receipts];
          for (const n of order) {
            const [one] = left.splice(n % Math.max(1, left.length), 1);
            if (one) ranker.unlearn(one);
          }
          expect(textOf(ranker)).toBe(known);
        },
      ),
    );
  });

  test("a receipt outlives being stored", () => {
    const ranker = new Ranker();
    const empty = textOf(ranker);
    for (let n = 0; n < 3; n++) ranker.learn(from("ines@larch.example"), BOOKINGS, START);
    const last = ranker.learn(from("bo@tarn.example"), WARDENS, START);
    expect(last.keys).toContain("sender bo@tarn.example");
    const kept = JSON.parse(JSON.stringify(last)) as Receipt;
    const before = textOf(ranker);
    ranker.unlearn(kept);
    ranker.learn(from("bo@tarn.example"), WARDENS, START);
    expect(textOf(ranker)).toBe(before);
    expect(before).not.toBe(empty);
  });
});

describe("guesses", () => {
  test("are those of one that was never asked before and learned the same", () => {
    const arbDeed = fc.oneof(
      arbFiling.map((filing) => ({ do: "learn" as const, ...filing })),
      fc.nat().map((which) => ({ do: "unlearn" as const, which })),
    );
    fc.assert(
      fc.property(fc.array(arbDeed, { maxLength: 12 }), arbMail, fc.nat(400), (deeds, asked, days) => {
        const atMs = START + days * DAY_MS;
        const ranker = new Ranker();
        const receipts: Receipt[] = [];
        const does = (deed: (typeof deeds)[number], on: Ranker) => {
          if (deed.do === "learn") return void receipts.push(on.learn(deed.mail, deed.folder, deed.mail.dateMs));
          const [one] = receipts.splice(deed.which % Math.max(1, receipts.length), 1);
          if (one) on.unlearn(one);
        };
        for (const deed of deeds) {
          ranker.rank(asked, atMs);
          ranker.rank(asked, START);
          does(deed, ranker);
        }
        const fresh = Ranker.from(JSON.parse(textOf(ranker)));
        const told = (one: Ranker) => one.rank(asked, atMs).map(({ folder, reasons }) => ({ folder, reasons }));
        expect(told(ranker)).toEqual(told(fresh));
        ranker.rank(asked, atMs).forEach(({ confidence }, n) => {
          expect(confidence).toBeCloseTo(fresh.rank(asked, atMs)[n]!.confidence, 9);
        });
      }),
    );
  });

  test("give reasons that are as strong in one order, whatever was learned and forgotten before", () => {
    const plain = (more: Partial<FilingMail>, day: number) =>
      from("ines@larch.example", { subject: "Beds for six", dateMs: START + day * DAY_MS, ...more });
    const ranker = new Ranker();
    const learn = (more: Partial<FilingMail>, day: number, folder: number) =>
      ranker.learn(plain(more, day), folderId(folder), START + day * DAY_MS);
    const forgotten = learn({}, 0, 1);
    learn({ files: ["plan.pdf", "list.CSV"] }, 0, 1);
    const asked = plain({ to: ["b@huts.example"], files: ["plan.pdf", "list.CSV"] }, 302);
    learn({ to: ["b@huts.example"], files: ["plan.pdf", "list.CSV"] }, 302, 2);
    ranker.rank(asked, asked.dateMs);
    ranker.unlearn(forgotten);
    ranker.rank(asked, asked.dateMs);
    learn({}, 92, 4);
    ranker.rank(asked, asked.dateMs);
    learn({ files: ["plan.pdf"] }, 302, 3);
    const fresh = Ranker.from(JSON.parse(textOf(ranker)));
    const kindsOf = (one: Ranker) =>
      one.rank(asked, asked.dateMs).map(({ reasons }) => reasons.map(({ kind }) => kind));
    expect(kindsOf(ranker)).toEqual(kindsOf(fresh));
  });

  test("are none before anything was learned; then they are where like mail went, with why", () => {
    const ranker = new Ranker();
    expect(ranker.rank(from("ines@larch.example"), START)).toEqual([]);
    for (let n = 0; n < 14; n++) {
      ranker.learn(from("ines@larch.example", { subject: "Beds" }), BOOKINGS, START + n * DAY_MS);
      ranker.learn(from("bo@tarn.example", { subject: "Rota" }), WARDENS, START + n * DAY_MS);
      ranker.learn(from("news@ridge.example", { list: "ridge.notes" }), LISTS, START + n * DAY_MS);
    }
    const now = START + 15 * DAY_MS;
    const [first, ...others] = ranker.rank(from("INES@larch.example"), now);
    expect(first!.folder).toBe(BOOKINGS);
    expect(first!.confidence).toBeGreaterThan(0.8);
    expect(first!.reasons[0]).toEqual({ kind: "sender", key: "sender ines@larch.example", times: 14 });
    expect(others.map(({ folder }) => folder).sort()).toEqual([WARDENS, LISTS]);
    const sum = [first!, ...others].reduce((total, { confidence }) => total + confidence, 0);
    expect(sum).toBeCloseTo(1, 6);
    // A stranger of a known domain, and a thread that says otherwise than the sender does.
    expect(ranker.rank(from("new@tarn.example"), now)[0]!.folder).toBe(WARDENS);
    const answer = ranker.rank(from("ines@larch.example", { thread: [WARDENS] }), now)[0]!;
    expect(answer.confidence).toBeLessThan(first!.confidence);
    expect(ranker.rank(from("other@ridge.example", { list: "Ridge.Notes" }), now)[0]!.folder).toBe(LISTS);
  });

  test("follow a habit that changes, and messages that went from one folder into another", () => {
    const ranker = new Ranker();
    for (let n = 0; n < 20; n++) {
      ranker.learn(from("ines@larch.example"), BOOKINGS, START + n * DAY_MS);
      ranker.learn(from("bo@tarn.example"), WARDENS, START + n * DAY_MS);
    }
    const later = START + 200 * DAY_MS;
    const filed = [0, 1, 2, 3].map((n) => ranker.learn(from("ines@larch.example"), LISTS, later + n * DAY_MS));
    expect(ranker.rank(from("ines@larch.example"), later + 5 * DAY_MS)[0]!.folder).toBe(LISTS);
    filed.forEach((receipt, n) => {
      ranker.unlearn(receipt);
      ranker.learn(from("ines@larch.example"), WARDENS, later + n * DAY_MS);
    });
    expect(ranker.rank(from("ines@larch.example"), later + 5 * DAY_MS)[0]!.folder).toBe(WARDENS);
    expect(ranker.rank(from("bo@tarn.example"), later).map(({ folder }) => folder)).not.toContain(LISTS);
  });
});

/** Not how fast, but how well: with these seeds the same on every machine. */
describe("guessed first, then learned", () => {
  test("many small folders: nearly all that can be told, and as sure as it turns out", () => {
    const habits = manySmall(1500, 60, 1);
    const score = prequential(habits, blend(), 0.3);
    expect(score.top1).toBeGreaterThan(habits.best! - 0.03);
    expect(score.coverage).toBeGreaterThan(0.95);
    expect(score.ece).toBeLessThan(0.03);
  });

  test("projects across people: words and threads tell what senders do not", () => {
    const habits = byProject(1200, 12, 2);
    const score = prequential(habits, blend(), 0.3);
    expect(score.top1).toBeGreaterThan(habits.best! - 0.05);
    expect(prequential(habits, lastFolder(), 0.3).top1).toBeLessThan(0.4);
    expect(score.ece).toBeLessThan(0.03);
  });

  test("habits that change half way: better than the last folder alone, and as sure as it turns out", () => {
    const habits = drifting(2000, 15, 3);
    const score = prequential(habits, blend(), 0.3);
    expect(score.top1).toBeGreaterThan(prequential(habits, lastFolder(), 0.3).top1);
    expect(score.top3).toBeGreaterThan(0.9);
    expect(score.ece).toBeLessThan(0.03);
  });
});
