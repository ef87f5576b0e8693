import type { FolderId } from "../id";
import { textsOf, type Correspondent, type Doc } from "../letter";
import { DraftRow } from "../macro";
import { fold, matcher, TRAIT, type Test } from "../narrow";
import { arrivedIn } from "./past";
import { reaches, type Reach } from "./sending";

/** A letter as it stands before it is queued. */
export interface Leaving {
  readonly sender: Correspondent;
  readonly to: readonly Correspondent[];
  readonly cc: readonly Correspondent[];
  readonly bcc: readonly Correspondent[];
  readonly subject: string;
  readonly body: Doc;
  /** Names of the files that go along. */
  readonly files: readonly string[];
}

export interface LookRule extends Reach {
  readonly test: Test;
  /** What the person is asked. */
  readonly look: string;
}

const textOf = (people: readonly Correspondent[]): string =>
  fold(people.map(({ name, address }) => `${name} ${address}`).join(" "));

/** A letter as conditions see it: as it will be in the outbox. */
function rowOf({ sender, to, cc, subject, body, files }: Leaving, outbox: FolderId, now: Date): DraftRow {
  const texts = {
    from: textOf([sender]),
    to: textOf([...to, ...cc]),
    cc: textOf(cc),
    via: " ",
    subject: fold(subject),
    file: fold(files.join(" ")),
    list: " ",
  };
  const row = new DraftRow();
  row.draft = { ...arrivedIn(outbox), read: true };
  row.facts = {
    fromName: sender.name,
    fromAddress: sender.address,
    subject,
    list: "",
    account: 0,
    dateMs: now.getTime(),
    size: 0,
    traits: TRAIT.mine | (files.length > 0 ? TRAIT.attachment : 0),
    text: (field) => texts[field],
    body: textsOf(body).join("\n"),
    tasks: [],
  };
  return row;
}

/** What a person is to be asked once more before a letter is queued, each question once. @param own the person's own addresses */
export function looksFor(
  rules: readonly LookRule[],
  letter: Leaving,
  own: readonly string[],
  outbox: FolderId,
  now: Date,
): string[] {
  const row = rowOf(letter, outbox, now);
  const people = [...letter.to, ...letter.cc, ...letter.bcc];
  const meant = rules.filter((rule) => reaches(rule, people, own) && matcher(rule.test)(row));
  return [...new Set(meant.map(({ look }) => look))];
}
