import { givenTo, type Command, type Given, type Test } from "../../mail/sieve";
import type { Step } from "../../macro";
import { writeEquals } from "../../narrow";
import { folderFor, readPath } from "../../place";
import { PLACE } from "./conditions-out";
import { ConditionsIn, namesVariable, type InContext, type Meaning } from "./conditions-in";
import type { Near } from "./notes";

/** Commands of a script as steps. */

/** What may have been done to a message by then, by what came before in the script. */
export interface Before {
  /** Filed, so that it is in the inbox no more. */
  filed: boolean;
  /** Kept, so that it stays in the inbox whatever comes. */
  kept: boolean;
  /** Given flags, or had some taken. */
  flagged: boolean;
  /** Thrown away, unless it is filed or kept after all. */
  thrown: boolean;
}

/** What may have been done on either of two ways. */
export function eitherWay(into: Before, way: Before): void {
  for (const key of ["filed", "kept", "flagged", "thrown"] as const) into[key] ||= way[key];
}

/** A command that cannot be taken, and why. */
export interface LeftCommand {
  readonly node: Test;
  readonly why: string;
}

const isFiling = (one: Command): boolean =>
  one.name === "fileinto" && !one.args.some((arg) => arg.kind === "tag" && arg.name === "copy");

const textAt = (given: Given, place: number): string => {
  const arg = given.places[place];
  return arg?.kind === "texts" ? (arg.texts[0] ?? "") : "";
};

/** An "if" with what hangs on it, as one piece. */
export interface Chain {
  readonly branches: readonly Command[];
}

/** Commands with each "if", "elsif" and "else" that belong together in one piece. */
export function chained(commands: readonly Command[]): (Command | Chain)[] {
  const out: (Command | Chain)[] = [];
  let chain: Command[] | null = null;
  for (const one of commands) {
    if (one.name === "if") out.push({ branches: (chain = [one]) });
    else if (chain && (one.name === "elsif" || one.name === "else")) chain.push(one);
    else {
      chain = null;
      out.push(one);
    }
  }
  return out;
}

export class StepsIn {
  readonly left: LeftCommand[] = [];

  /** @param noted whether the script files what it noted at its end */
  constructor(
    private readonly context: InContext,
    readonly before: Before,
    private readonly noted: boolean,
    private readonly near: Set<Near>,
  ) {}

  private get inbox(): string {
    return folderFor(this.context.directory, "inbox")?.path ?? "Inbox";
  }

  private cannot(node: Test, why: string): Step[] {
    this.left.push({ node, why });
    return [];
  }

  /** @param commands without "stop" */
  steps(commands: readonly Command[]): Step[] {
    const keeps = commands.some(({ name }) => name === "keep");
    return chained(commands).flatMap((one, i, all) => {
      if ("branches" in one) return this.chain(one);
      const more = all.slice(i + 1).some((next) => !("branches" in next) && isFiling(next));
      return this.one(one, keeps || more, keeps || commands.some(isFiling));
    });
  }

  private chain({ branches }: Chain): Step[] {
    const [first, ...rest] = branches;
    if (!first) return [];
    if (first.name === "else") return this.steps(first.block?.commands ?? []);
    const conditions = new ConditionsIn(this.context);
    const said = first.tests[0] ? conditions.test(first.tests[0]) : null;
    if (!said) return this.cannot(first, conditions.why ?? "It has no test.");
    for (const code of conditions.near) this.near.add(code);
    const at = { ...this.before };
    const then = this.steps(first.block?.commands ?? []);
    const after = { ...this.before };
    Object.assign(this.before, at);
    const otherwise = this.chain({ branches: rest });
    eitherWay(this.before, after);
    const { text: narrow } = said;
    if (narrow === "") return then;
    if (then.length === 0 && otherwise.length === 0) return [];
    return [{ do: "if", narrow, then, ...(otherwise.length > 0 ? { else: otherwise } : {}) }];
  }

  private get trash(): string {
    return folderFor(this.context.directory, "trash")?.path ?? "Trash";
  }

  /** What is meant for a message that was not filed yet, where it may have been. */
  private ifThere(steps: Step[], otherwise: Step[] = []): Step[] {
    if (!this.before.filed || steps.length + otherwise.length === 0) return steps;
    const homes = [this.inbox, ...(this.before.thrown ? [this.trash] : [])].map((path) => writeEquals("folder", path));
    if (steps.length > 0)
      return [
        { do: "if", narrow: homes.join(" | "), then: steps, ...(otherwise.length > 0 ? { else: otherwise } : {}) },
      ];
    return [{ do: "if", narrow: homes.map((home) => `!${home}`).join(" "), then: otherwise }];
  }

  private keep(node: Command, given: Given): Step[] {
    const flags = this.ownFlags(node, given);
    const beside = this.ifThere([], [{ do: "copy", to: this.inbox }]);
    const back: Step = { do: "if", narrow: writeEquals("folder", this.trash), then: [{ do: "move", to: this.inbox }] };
    this.before.kept = true;
    return [...flags, ...beside, ...(this.before.thrown ? [back] : [])];
  }

  /**
   * @param copies whether it is filed or kept once more behind this
   * @param stored whether it is filed or kept beside this
   */
  private one(node: Command, copies: boolean, stored: boolean): Step[] {
    const given = givenTo(node, true);
    if (!given) return this.cannot(node, `“${node.name}” is not known here, or does not fit.`);
    if (node.args.some(namesVariable)) return this.cannot(node, "There are no variables here.");
    switch (node.name) {
      case "keep":
        return this.keep(node, given);
      case "discard":
        if (stored) return [];
        return this.discard();
      case "fileinto":
        return this.fileInto(node, given, copies);
      case "set":
        return this.set(node, given);
      case "setflag":
        if (this.before.flagged) return this.cannot(node, "It takes away flags given before.");
        return this.flags(node, given);
      case "addflag":
      case "removeflag":
        return this.flags(node, given);
      default:
        return this.cannot(node, `Nothing here does what “${node.name}” does.`);
    }
  }

  private discard(): Step[] {
    this.near.add(this.before.kept ? "kept" : "trash");
    const steps = this.ifThere([{ do: "trash" }]);
    this.before.thrown = true;
    return steps;
  }

  private fileInto(node: Command, given: Given, copies: boolean): Step[] {
    const path = this.pathOf(textAt(given, 0));
    if (path === null) return this.cannot(node, `“${textAt(given, 0)}” is no folder's name here.`);
    const flags = this.ownFlags(node, given);
    if (given.tags.has("copy") || copies) return [...flags, { do: "copy", to: path }];
    if (this.noted) return this.cannot(node, "It files at once and at its end.");
    if (this.before.kept) this.near.add("kept");
    const steps = [...flags, ...this.ifThere([{ do: "move", to: path }], [{ do: "copy", to: path }])];
    this.before.filed = true;
    return steps;
  }

  private pathOf(name: string): string | null {
    if (name.toUpperCase() === "INBOX") return this.inbox;
    const read = readPath(name);
    return read.ok ? read.path : null;
  }

  private set(node: Command, given: Given): Step[] {
    if (!this.noted || textAt(given, 0) !== PLACE || given.tags.size > 0)
      return this.cannot(node, "There are no variables here.");
    const name = textAt(given, 1);
    const path = name === "" ? this.inbox : this.pathOf(name);
    return path === null ? this.cannot(node, `“${name}” is no folder's name here.`) : [{ do: "move", to: path }];
  }

  /** Flags that are said where a message is stored: they are its alone there. */
  private ownFlags(node: Command, { tags }: Given): Step[] {
    const flags = tags.get("flags");
    if (flags?.kind !== "texts") return [];
    if (this.before.flagged || this.before.filed) this.near.add("flags");
    return this.eachFlag(node, flags.texts, true);
  }

  private flags(node: Command, given: Given): Step[] {
    const [flags] = given.places;
    if (given.places.length !== 1 || flags?.kind !== "texts") return this.cannot(node, "There are no variables here.");
    if (this.before.filed || this.before.kept) this.near.add("flags");
    const steps = this.ifThere(this.eachFlag(node, flags.texts, node.name !== "removeflag"));
    this.before.flagged = true;
    return steps;
  }

  private eachFlag(node: Command, texts: readonly string[], on: boolean): Step[] {
    const words = texts.flatMap((text) => text.split(" ").filter(Boolean));
    const meant = words.map((word) => [word, this.context.meaningOf(word)] as const);
    // A message has one marker: taking others off is part of putting one on.
    const markers = meant.flatMap(([, meaning]) => (meaning?.is === "marker" ? [meaning.letter] : []));
    const steps = meant.flatMap(([word, meaning]) => {
      if (!meaning) return this.cannot(node, `The flag “${word}” means nothing here.`);
      return meaning.is === "marker" ? [] : [flagStep(meaning, on)];
    });
    const [letter] = markers;
    if (letter === undefined) return steps;
    if (on) return [...steps, { do: "marker", set: letter }];
    const is = (one: string) => writeEquals("marker", one);
    return [...steps, { do: "if", narrow: markers.map(is).join(" | "), then: [{ do: "marker", clear: true }] }];
  }
}

function flagStep(meaning: Exclude<Meaning, { is: "marker" }>, on: boolean): Step {
  if (meaning.is === "label") return on ? { do: "label", add: meaning.name } : { do: "label", remove: meaning.name };
  if (meaning.is === "read") return { do: on ? "read" : "unread" };
  return { do: on ? "flag" : "unflag" };
}
