import { randomUUID } from "node:crypto";
import { isEmpty, type Change } from "@/core/change";
import { runId } from "@/core/id";
import { cut } from "@/core/text";
import type { Transaction } from "../db";
import { BY_PERSON } from "../run";
import { appendEntry, tell, writeChange } from "../store";
import type { Context } from "./context";

/** What a change by hand is called in the ledger, and what it is about. */
interface Said {
  readonly name: string;
  readonly about: string;
  /** How many messages it is about. */
  readonly messages: number;
}

const LONGEST_NAME = 80;

/**
 * Writes what a person changes by hand, outside of any macro: an entry of the ledger like any run, and taken back
 * like one. What is so already is no entry.
 */
export async function writeByHand(
  tx: Transaction,
  { person }: Context,
  seq: number,
  wanted: Change,
  { name, about, messages }: Said,
): Promise<void> {
  const { change } = await writeChange(tx, person, wanted);
  if (!isEmpty(change))
    await appendEntry(
      tx,
      person,
      {
        seq,
        id: runId(randomUUID()),
        kind: "run",
        ...BY_PERSON,
        of: null,
        macro: null,
        name: cut(name, LONGEST_NAME),
        steps: [],
        about,
        messages,
        skipped: [],
      },
      change,
    );
  await tell(tx, person, "settings");
}
