import { textAt, type Columns, type TextColumn } from "@/core/columns";
import { LOCAL_ACCOUNT, type ValueHint, type Vocabulary } from "@/core/narrow";
import { accountName, type Account } from "@/core/place";
import { mailbox, view } from "./store";

/** What fields have for values in this mailbox, for completion. */

const DAY_MS = 86_400_000;
/** After so many days a message counts half for how likely its sender is meant. */
const HALF_LIFE_DAYS = 45;
const MOST_PEOPLE = 3000;

interface Person {
  address: string;
  name: string;
  count: number;
  weight: number;
}

/** Senders by how often and how lately they wrote. */
function peopleIn(columns: Columns, nowMs: number): ValueHint[] {
  const { index } = columns.texts.sender;
  const people = new Map<string, Person>();
  const byText: (Person | undefined)[] = [];
  for (let row = 0; row < columns.count; row++) {
    const n = index[row]!;
    let person = byText[n];
    if (!person) {
      const address = textAt(columns, "fromAddress", row);
      const key = address.toLowerCase();
      person = people.get(key) ?? { address, name: textAt(columns, "fromName", row), count: 0, weight: 0 };
      people.set(key, person);
      byText[n] = person;
    }
    person.count++;
    person.weight += 2 ** (-Math.max(0, nowMs - columns.dateMs[row]!) / DAY_MS / HALF_LIFE_DAYS);
  }
  return [...people.values()]
    .filter((person) => person.address !== "")
    .sort((a, b) => b.weight - a.weight)
    .slice(0, MOST_PEOPLE)
    .map(({ address, name, count }) => ({ value: address, count, detail: name }));
}

/** The different texts of a column that has few, the commonest first. */
function valuesIn(columns: Columns, name: TextColumn, split: string): ValueHint[] {
  const { index } = columns.texts[name];
  const byText = new Map<number, number>();
  for (let row = 0; row < columns.count; row++) byText.set(index[row]!, (byText.get(index[row]!) ?? 0) + 1);
  const counts = new Map<string, number>();
  const rows = new Map<number, number>();
  for (let row = 0; row < columns.count; row++) if (!rows.has(index[row]!)) rows.set(index[row]!, row);
  for (const [n, count] of byText)
    for (const value of textAt(columns, name, rows.get(n)!).split(split))
      if (value !== "") counts.set(value, (counts.get(value) ?? 0) + count);
  return [...counts].sort((a, b) => b[1] - a[1]).map(([value, count]) => ({ value, count }));
}

/** Accounts, and what came through none, with how much of the mail did. */
function accountsIn({ account, count }: Columns, accounts: readonly Account[]): ValueHint[] {
  const names = new Map(accounts.map((one) => [one.id, accountName(one)]));
  const counts = new Map([...names.values(), LOCAL_ACCOUNT].map((name) => [name, 0]));
  for (let row = 0; row < count; row++) {
    const name = names.get(account[row]!) ?? LOCAL_ACCOUNT;
    counts.set(name, counts.get(name)! + 1);
  }
  return [...counts].map(([value, total]) => ({ value, count: total }));
}

let made: { readonly generation: number; readonly hints: Map<string, ValueHint[]> } | null = null;

function remembered(key: string, make: () => ValueHint[]): ValueHint[] {
  if (made?.generation !== mailbox.generation) made = { generation: mailbox.generation, hints: new Map() };
  let hints = made.hints.get(key);
  if (!hints) made.hints.set(key, (hints = make()));
  return hints;
}

export const vocabulary: Vocabulary = (field) => {
  const { directory, tally } = view();
  const { columns } = mailbox;
  const counted = (value: string, count: { total: number } | undefined, detail?: string): ValueHint => ({
    value,
    count: count?.total ?? 0,
    ...(detail ? { detail } : {}),
  });
  switch (field) {
    case "from":
    case "to":
    case "cc":
    case "anyone":
      return remembered("people", () => peopleIn(columns, Date.now()));
    case "via":
      return remembered("via", () => valuesIn(columns, "via", ", "));
    case "list":
      return remembered("list", () => valuesIn(columns, "list", "\n"));
    case "folder":
      return directory.folders.map((folder) => counted(folder.path, tally?.folders.get(folder.id)));
    case "label":
      return directory.labels.map((label) => counted(label.name, tally?.labels.get(label.id)));
    case "marker":
      return directory.markers.map((m) => counted(m.letter, tally?.markers.get(m.id), m.meaning));
    case "account":
      return remembered(`account ${JSON.stringify(directory.accounts)}`, () =>
        accountsIn(columns, directory.accounts ?? []),
      );
    default:
      return [];
  }
};
