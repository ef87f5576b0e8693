import { command, otherwise, tag, texts, when, type Command, type Test } from "../../mail/sieve";
import { stepText, type NamedMacro, type Step } from "../../macro";
import { folderFor, folderNamed, labelNamed, type Directory, type Role } from "../../place";
import { keywordOf, markerKeyword } from "../../sync";
import { hasFlag, not, PLACE, type ConditionsOut } from "./conditions-out";

/** Steps as commands of a script. */

/** A script that is longer than this says the same thing over and over. */
const MOST_COMMANDS = 2000;

/** How a message is put somewhere: at once, or noted and done where the script ends, so that the last place counts. */
export type Filing = "at-once" | "noted";

const flag = (name: "addflag" | "removeflag", ...flags: readonly string[]): Command => command(name, [texts(...flags)]);

export class StepsOut {
  /** What of them cannot be said, in words. */
  readonly unsaid: string[] = [];
  private commands = 0;
  private readonly running: string[] = [];

  constructor(
    private readonly conditions: ConditionsOut,
    private readonly directory: Directory,
    private readonly macros: readonly NamedMacro[],
    private readonly filing: Filing,
  ) {}

  /** What a macro comes to: its steps, for the messages it is for. */
  macro({ steps, settings, name }: Pick<NamedMacro, "steps" | "settings" | "name">): readonly Command[] {
    this.running.push(name);
    const all = this.steps(steps);
    this.running.pop();
    return settings.for ? this.where(this.conditions.test(settings.for), all) : all;
  }

  private where(condition: Test, then: readonly Command[]): readonly Command[] {
    if (condition.name === "true") return then;
    return then.length === 0 || condition.name === "false" ? [] : [when(condition, then)];
  }

  /** Steps one after another. Where one may end the macro, what follows stands in the branches that go on. */
  private steps(steps: readonly Step[]): readonly Command[] {
    const out: Command[] = [];
    for (const [i, step] of steps.entries()) {
      if (++this.commands > MOST_COMMANDS) {
        if (this.commands === MOST_COMMANDS + 1) this.unsaid.push("it comes to too many steps");
        return out;
      }
      const rest = steps.slice(i + 1);
      if (step.do === "stop") return out;
      if (step.do === "only when") {
        if (step.narrow === undefined) return this.cannot(step);
        return [...out, ...this.where(this.conditions.test(step.narrow), this.steps(rest))];
      }
      if (step.do !== "if") {
        out.push(...this.one(step));
        continue;
      }
      if (step.narrow === undefined) return this.cannot(step);
      const ends = mayEnd(step.then) || mayEnd(step.else ?? []);
      const branch = (inner: readonly Step[]) => this.steps(ends ? [...inner, ...rest] : inner);
      const condition = this.conditions.test(step.narrow);
      const [then, no] = [branch(step.then), branch(step.else ?? [])];
      if (condition.name === "true" || condition.name === "false") out.push(...(condition.name === "true" ? then : no));
      else if (then.length > 0) out.push(when(condition, then), ...(no.length > 0 ? [otherwise(no)] : []));
      else out.push(...this.where(not(condition), no));
      if (ends) return out;
    }
    return out;
  }

  private cannot(step: Step): readonly Command[] {
    this.unsaid.push(`“${stepText(step)}”`);
    return [];
  }

  private one(step: Exclude<Step, { do: "stop" | "only when" | "if" }>): readonly Command[] {
    switch (step.do) {
      case "move":
      case "copy": {
        const folder = typeof step.to === "string" ? folderNamed(this.directory, step.to) : undefined;
        // A script would put something else in the place of such a name.
        if (!folder || folder.path.includes("${")) return this.cannot(step);
        const path = folder.role === "inbox" ? "INBOX" : folder.path;
        return step.do === "move" ? [this.into(path)] : [command("fileinto", [tag("copy"), texts(path)])];
      }
      case "archive":
      case "trash":
      case "junk":
        return this.intoRole(step, step.do);
      case "read":
        return [flag("addflag", "\\Seen")];
      case "unread":
        return [flag("removeflag", "\\Seen")];
      case "toggle read":
        return [when(hasFlag("\\Seen"), [flag("removeflag", "\\Seen")]), otherwise([flag("addflag", "\\Seen")])];
      case "flag":
        if (step.start !== undefined || step.due !== undefined || step.note !== undefined)
          this.conditions.near.add("date");
        return [flag("addflag", "\\Flagged")];
      case "unflag":
        return [flag("removeflag", "\\Flagged")];
      case "label":
        return this.label(step);
      case "marker":
        return this.marker(step);
      case "run macro":
        return this.called(step);
      default:
        return this.cannot(step);
    }
  }

  private into(path: string): Command {
    if (this.filing === "at-once") return command("fileinto", [texts(path)]);
    return command("set", [texts(PLACE), texts(path === "INBOX" ? "" : path)]);
  }

  private intoRole(step: Step, role: Role): readonly Command[] {
    const folder = folderFor(this.directory, role);
    return folder ? [this.into(folder.path)] : this.cannot(step);
  }

  private label(step: Extract<Step, { do: "label" }>): readonly Command[] {
    const name = step.add ?? step.remove ?? step.toggle;
    const label = typeof name === "string" ? labelNamed(this.directory, name) : undefined;
    const word = label ? keywordOf(label.name) : null;
    if (word === null) return this.cannot(step);
    if (step.add !== undefined) return [flag("addflag", word)];
    if (step.remove !== undefined) return [flag("removeflag", word)];
    return [when(hasFlag(word), [flag("removeflag", word)]), otherwise([flag("addflag", word)])];
  }

  private marker(step: Extract<Step, { do: "marker" }>): readonly Command[] {
    const all = this.directory.markers.map(({ letter }) => markerKeyword(letter));
    if (step.next || (step.set !== undefined && typeof step.set !== "string")) return this.cannot(step);
    const [set] = step.set === undefined ? [] : [markerKeyword(step.set)];
    const others = all.filter((word) => word !== set);
    return [
      ...(others.length > 0 ? [flag("removeflag", ...others)] : []),
      ...(set === undefined ? [] : [flag("addflag", set)]),
    ];
  }

  private called(step: Extract<Step, { do: "run macro" }>): readonly Command[] {
    const macro = this.macros.find(({ name }) => name.toLowerCase() === step.macro.toLowerCase());
    return !macro || this.running.includes(macro.name) ? this.cannot(step) : this.macro(macro);
  }
}

/** Whether steps may end their macro before its end. */
const mayEnd = (steps: readonly Step[]): boolean =>
  steps.some(
    (step) =>
      step.do === "stop" ||
      step.do === "only when" ||
      (step.do === "if" && (mayEnd(step.then) || mayEnd(step.else ?? []))),
  );

/** How often commands put a message somewhere, at the most, on any way through them. */
export function filings(commands: readonly Command[]): number {
  let most = 0;
  let branches = 0;
  for (const one of commands) {
    if (one.name !== "elsif" && one.name !== "else") [most, branches] = [most + branches, 0];
    if (one.block) branches = Math.max(branches, filings(one.block.commands));
    else if (one.name === "fileinto" && !one.args.some((arg) => arg.kind === "tag" && arg.name === "copy")) most++;
  }
  return most + branches;
}
