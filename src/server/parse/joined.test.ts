import fc from "fast-check";
import { afterEach, beforeEach, expect, it } from "vitest";
import { joinAtOnce } from "./joined";

const Real = globalThis.Blob;
beforeEach(joinAtOnce);
afterEach(() => void Object.defineProperty(globalThis, "Blob", { value: Real }));

const bytes = fc.uint8Array({ maxLength: 40 });
const piece = fc.oneof(
  bytes,
  bytes.map((all) => all.subarray(1)),
  bytes.map((all) => all.slice().buffer),
  fc.string({ unit: "binary", maxLength: 10 }),
);

it("puts pieces together as Node's own does", async () => {
  expect(globalThis.Blob).not.toBe(Real);
  await fc.assert(
    fc.asyncProperty(fc.array(piece), async (pieces) => {
      const parts = pieces as BlobPart[];
      const [ours, theirs] = await Promise.all([new Blob(parts).arrayBuffer(), new Real(parts).arrayBuffer()]);
      expect(Buffer.from(ours).toString("hex")).toBe(Buffer.from(theirs).toString("hex"));
    }),
  );
});
