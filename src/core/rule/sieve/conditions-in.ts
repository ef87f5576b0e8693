import { givenTo, type Argument, type Given, type Test } from "../../mail/sieve";
import { fold, writeEquals, writeText, type Field } from "../../narrow";
import { folderFor, readPath, type Directory } from "../../place";
import { wallIn } from "../../when";
import type { Near } from "./notes";
import { PLACE } from "./conditions-out";
import { begunBy, isPlainWord } from "./words";

/** Tests of a script as conditions. */

/** How a condition is put together, so that brackets stand where they are needed. */
export interface Said {
  readonly join: "one" | "and" | "or";
  readonly text: string;
}

export const EVERY: Said = { join: "one", text: "" };

const inside = ({ join, text }: Said, of: "and" | "or" | "not"): string =>
  join === "one" || (of !== "not" && (join === "and" || join === of)) ? text : `(${text})`;

/** Conditions that all have to hold. */
export function allSaid(parts: readonly Said[]): Said {
  const asks = parts.filter(({ text }) => text !== "");
  return asks.length <= 1
    ? (asks[0] ?? EVERY)
    : { join: "and", text: asks.map((part) => inside(part, "and")).join(" ") };
}

export const notSaid = (part: Said): Said => ({ join: "one", text: `!${inside(part, "not")}` });

/** What a flag or keyword means here. */
export interface Flags {
  readonly meaningOf: (flag: string) => Meaning | null;
}
export type Meaning =
  | { readonly is: "read" | "flagged" }
  | { readonly is: "label"; readonly name: string }
  | { readonly is: "marker"; readonly letter: string };

export interface InContext extends Flags {
  readonly directory: Directory;
  /** IANA name. */
  readonly zone: string;
}

const FIELDS: readonly (readonly [Field, readonly string[]])[] = [
  ["subject", ["subject"]],
  ["from", ["from"]],
  ["to", ["cc", "to"]],
  ["to", ["to"]],
  ["cc", ["cc"]],
  ["anyone", ["cc", "from", "to"]],
  ["list", ["list-id"]],
  ["via", ["cc", "delivered-to", "envelope-to", "to", "x-original-to"]],
  ["via", ["delivered-to"]],
  ["via", ["x-original-to"]],
];

const MATCHES = ["is", "contains", "matches", "value", "count"] as const;
type Match = (typeof MATCHES)[number];

const textsAt = (given: Given, place: number): readonly string[] => {
  const arg = given.places[place];
  return arg?.kind === "texts" ? arg.texts : [];
};
const tagText = (given: Given, name: string): string | undefined => {
  const arg = given.tags.get(name);
  return arg?.kind === "texts" ? arg.texts[0] : undefined;
};

/** Whether a text is one only once something was put in the place of a name. */
export const namesVariable = (arg: Argument): boolean =>
  arg.kind === "texts" && arg.texts.some((text) => text.includes("${"));

/** A pattern that means any text with this in it. */
function heldBy(pattern: string): string | null {
  const found = /^\*((?:[^*?\\]|\\.)*)\*$/s.exec(pattern);
  return found ? found[1]!.replace(/\\(.)/gs, "$1") : null;
}

export class ConditionsIn {
  readonly near = new Set<Near>();
  /** Whether they ask what was done to a message before. */
  asksState = false;
  /** What could not be taken, in words. */
  why: string | null = null;

  constructor(private readonly context: InContext) {}

  private cannot(why: string): null {
    this.why ??= why;
    return null;
  }

  private or(parts: readonly (Said | null)[]): Said | null {
    const real = parts.filter((part) => part !== null);
    if (real.length < parts.length) return null;
    if (real.length === 1) return real[0]!;
    if (real.some(({ text }) => text === "")) return EVERY;
    return { join: "or", text: real.map((part) => inside(part, "or")).join(" | ") };
  }

  private and(parts: readonly (Said | null)[]): Said | null {
    const real = parts.filter((part) => part !== null);
    if (real.length < parts.length) return null;
    return allSaid(real);
  }

  /** @returns null where it cannot be taken, and then `why` says so */
  test(test: Test): Said | null {
    const [first] = test.tests;
    if (!first && ["not", "allof", "anyof"].includes(test.name)) return this.cannot(`“${test.name}” has no test.`);
    if (test.name === "not" && first) {
      const inner = this.test(first);
      if (inner?.text === "") return this.cannot("It never holds.");
      return inner && notSaid(inner);
    }
    if (test.name === "allof") return this.and(test.tests.map((part) => this.test(part)));
    if (test.name === "anyof") return this.known(test) ?? this.or(test.tests.map((part) => this.test(part)));
    const given = givenTo(test, false);
    if (!given) return this.cannot(`The test "${test.name}" is not known here, or does not fit.`);
    if (test.name !== "string" && test.args.some(namesVariable)) return this.cannot("There are no variables here.");
    switch (test.name) {
      case "true":
        return EVERY;
      case "false":
        return this.cannot("It never holds.");
      case "exists":
        return this.exists(textsAt(given, 0));
      case "size":
        return this.size(given);
      case "header":
      case "address":
      case "envelope":
        return this.header(test.name, given);
      case "body":
        return this.body(given);
      case "date":
        return this.date(given);
      case "hasflag":
        return this.flags(given);
      case "string":
        return this.place(given);
      default:
        return this.cannot(`The test "${test.name}" has no condition here.`);
    }
  }

  /** Several tests that are one condition here. */
  private known({ tests }: Test): Said | null {
    const [a, b] = tests;
    if (tests.length !== 2 || !a || !b) return null;
    if (a.name === "exists" && b.name === "exists") {
      const names = [a, b].flatMap((one) => one.args.flatMap((arg) => (arg.kind === "texts" ? arg.texts : [])));
      const isList = names.map((name) => name.toLowerCase()).sort();
      return isList.join() === "list-id,list-unsubscribe" ? { join: "one", text: "listmail" } : null;
    }
    // A word anywhere: in the headers people see, or in the text.
    const [headers, words] = [givenTo(a, false), givenTo(b, false)];
    if (a.name !== "header" || b.name !== "body" || !headers || !words) return null;
    if (textsAt(headers, 0).join() !== "subject,from,to,cc" || !words.tags.has("text")) return null;
    const [word, same] = [begunBy(textsAt(headers, 1)), begunBy(textsAt(words, 0))];
    if (word === null || word !== same) return null;
    this.near.add("files");
    return { join: "one", text: writeText("text", "~", word) };
  }

  private exists(names: readonly string[]): Said | null {
    const known = ["list-id", "list-unsubscribe"];
    const [name] = names;
    if (name === undefined || names.length > 1 || !known.includes(name.toLowerCase()))
      return this.cannot("There is no condition here for whether a header is there.");
    this.near.add("unsubscribe");
    return { join: "one", text: "listmail" };
  }

  private size({ tags, places }: Given): Said | null {
    const [bytes] = places;
    if (bytes?.kind !== "number" || tags.size !== 1) return this.cannot("A size is over or under something.");
    if (bytes.value > 999_999_999) return this.cannot("No mail is so large.");
    return { join: "one", text: `size${tags.has("over") ? ">" : "<"}${bytes.value}` };
  }

  private matchOf(given: Given): Match | null {
    const comparator = tagText(given, "comparator");
    if (comparator !== undefined && comparator !== "i;ascii-casemap")
      return this.cannot("Here upper and lower case are always the same.");
    return MATCHES.find((name) => given.tags.has(name)) ?? "is";
  }

  private fieldOf(names: readonly string[]): Field | null {
    const sorted = [...new Set(names.map((name) => name.toLowerCase()))].sort().join();
    const found = FIELDS.find(([, headers]) => headers.join() === sorted);
    if (!found) return null;
    if (sorted === "to") this.near.add("copied");
    if (found[0] === "list") this.near.add("list");
    if (found[0] === "via") this.near.add("own");
    return found[0];
  }

  private header(kind: "header" | "address" | "envelope", given: Given): Said | null {
    const match = this.matchOf(given);
    if (match === null) return null;
    const names = textsAt(given, 0);
    const keys = textsAt(given, 1);
    const field = this.fieldOf(names);
    if (field === null) {
      // Each header by itself, where they are not one field here.
      const fields = names.map((name) => this.fieldOf([name]));
      if (names.length < 2 || fields.includes(null))
        return this.cannot(`There is no condition here for the header "${names.join('", "')}".`);
      return this.or(fields.map((one) => this.inField(kind, one!, match, given, keys)));
    }
    return this.inField(kind, field, match, given, keys);
  }

  private inField(
    kind: "header" | "address" | "envelope",
    field: Field,
    match: Match,
    { tags }: Given,
    keys: readonly string[],
  ): Said | null {
    if (match === "value" || match === "count") return this.cannot("There is no such comparison here.");
    if (kind !== "header") {
      const part = ["localpart", "domain", "user", "detail"].find((name) => tags.has(name));
      if (part !== undefined && match !== "is") return this.cannot("Parts of addresses are only compared whole here.");
      const around = { localpart: ["", "@"], user: ["", "+"], detail: ["+", "@"], domain: ["@", ""] } as const;
      if (part !== undefined) {
        const [before, behind] = around[part as keyof typeof around];
        return this.or(keys.map((key) => this.sought(field, `${before}${key}${behind}`)));
      }
      if (match === "is") return this.or(keys.map((key) => this.equals(field, key)));
      this.near.add("names");
    }
    const begun = match === "matches" ? begunBy(keys) : null;
    if (begun !== null) {
      if (field === "subject") return this.worded(() => writeText(field, "~", begun), begun);
      this.near.add("whole");
      return this.worded(() => writeEquals(field, begun), begun);
    }
    if (match === "is") {
      if (field !== "subject" && field !== "list")
        return this.cannot("A header of people is not compared as one text here.");
      return this.or(keys.map((key) => this.equals(field, key)));
    }
    const held: readonly (string | null)[] = match === "contains" ? keys : keys.map(heldBy);
    if (held.includes(null)) return this.cannot("There are no such patterns here.");
    return this.or(held.map((key) => this.sought(field, key ?? "")));
  }

  /** A condition on words, unless there are none to look for. */
  private worded(write: () => string, text: string): Said | null {
    if (fold(text) === " ") return this.cannot(`"${text}" has no letters or digits to look for.`);
    if (!isPlainWord(text)) this.near.add("signs");
    return { join: "one", text: write() };
  }

  private sought(field: Field, text: string): Said | null {
    return this.worded(() => writeText(field, "~", field === "subject" ? `*${text}` : text), text);
  }

  private equals(field: Field, text: string): Said | null {
    this.near.add("signs");
    return this.worded(() => writeEquals(field, text), text);
  }

  private body(given: Given): Said | null {
    const match = this.matchOf(given);
    const keys = textsAt(given, 0);
    if (match === null || given.tags.has("raw") || given.tags.has("content"))
      return this.cannot("Here the words of a message are looked at, not its source.");
    const begun = match === "matches" ? begunBy(keys) : null;
    if (begun !== null) return this.worded(() => writeText("body", "~", begun), begun);
    const held: readonly (string | null)[] =
      match === "contains" ? keys : match === "matches" ? keys.map(heldBy) : [null];
    if (held.includes(null)) return this.cannot("There is no such comparison of texts here.");
    this.near.add("inside");
    return this.or(held.map((key) => this.worded(() => writeText("body", "~", key ?? ""), key ?? "")));
  }

  private date(given: Given): Said | null {
    const [name, part, at] = [0, 1, 2].map((place) => textsAt(given, place)[0]);
    const relation = tagText(given, "value");
    const isInstant =
      name?.toLowerCase() === "date" && part?.toLowerCase() === "iso8601" && tagText(given, "zone") === "+0000";
    const ms = Date.parse(at ?? "");
    if (!isInstant || Number.isNaN(ms) || (relation !== "ge" && relation !== "lt"))
      return this.cannot("Only dates of whole days can be taken in.");
    const { year, month, day, hour, minute } = wallIn(this.context.zone, new Date(ms));
    if (hour !== 0 || minute !== 0 || year < 1900) return this.cannot("Only dates of whole days can be taken in.");
    const two = (n: number) => String(n).padStart(2, "0");
    return { join: "one", text: `date${relation === "ge" ? ">=" : "<"}${year}-${two(month)}-${two(day)}` };
  }

  private flags(given: Given): Said | null {
    this.asksState = true;
    const match = MATCHES.find((name) => given.tags.has(name)) ?? "is";
    if (given.places.length !== 1 || match !== "is")
      return this.cannot("Flags are only asked for by their names here.");
    return this.or(
      textsAt(given, 0)
        .flatMap((flags) => flags.split(" ").filter(Boolean))
        .map((flag) => {
          const meaning = this.context.meaningOf(flag);
          if (!meaning) return this.cannot(`The flag "${flag}" means nothing here.`);
          if (meaning.is === "label") return { join: "one", text: writeEquals("label", meaning.name) };
          if (meaning.is === "marker") return { join: "one", text: writeEquals("marker", meaning.letter) };
          return { join: "one", text: meaning.is };
        }),
    );
  }

  /** Where a message was noted to go by then. */
  private place(given: Given): Said | null {
    this.asksState = true;
    if (textsAt(given, 0).join() !== `\${${PLACE}}`) return this.cannot("There are no variables here.");
    const inbox = folderFor(this.context.directory, "inbox")?.path ?? "Inbox";
    return this.or(
      textsAt(given, 1).map((path) =>
        path === "" || readPath(path).ok
          ? { join: "one", text: writeEquals("folder", path === "" ? inbox : path) }
          : this.cannot(`“${path}” is no folder's name here.`),
      ),
    );
  }
}
