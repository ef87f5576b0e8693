import { createHash } from "node:crypto";
import { otherEnds } from "@/core/mail";

/** What a source is known by. */
export interface Hashes {
  /** SHA-256 of it. */
  readonly hash: Uint8Array;
  /** Of the same source with its lines ended in other ways. */
  readonly alike: readonly Uint8Array[];
}

const sha256 = (raw: Uint8Array): Uint8Array => createHash("sha256").update(raw).digest();

export const hashesOf = (raw: Uint8Array): Hashes => ({ hash: sha256(raw), alike: otherEnds(raw).map(sha256) });
