import type { Argument, Block, Command, Test } from "./script";

const WIDEST = 100;

const quoted = (text: string): string => `"${text.replace(/[\\"]/g, "\\$&")}"`;

/** Texts one beside the other, in as many lines as they need. */
function listOf(texts: readonly string[], indent: string): string {
  const all = texts.map(quoted);
  const short = `[${all.join(", ")}]`;
  if (short.length <= WIDEST) return short;
  const lines: string[] = [];
  for (const one of all) {
    const last = lines.at(-1);
    if (last !== undefined && last.length + one.length + 2 <= WIDEST) lines[lines.length - 1] = `${last}, ${one}`;
    else lines.push(one);
  }
  const inner = `${indent}    `;
  return `[\n${lines.map((line) => inner + line).join(",\n")}\n${indent}  ]`;
}

function argument(arg: Argument, indent: string): string {
  if (arg.kind === "number") return String(arg.value);
  if (arg.kind === "tag") return `:${arg.name}`;
  return arg.isList ? listOf(arg.texts, indent) : quoted(arg.texts[0] ?? "");
}

function testText({ name, args, tests }: Test, indent: string): string {
  const parts = [name, ...args.map((arg) => argument(arg, indent))];
  if (tests.length === 0) return parts.join(" ");
  const inner = `${indent}  `;
  if (tests.length === 1 && name !== "allof" && name !== "anyof")
    return `${parts.join(" ")} ${testText(tests[0]!, indent)}`;
  return `${parts.join(" ")} (\n${tests.map((one) => inner + testText(one, inner)).join(",\n")}\n${indent})`;
}

/** Whatever is said in a comment, none of it is a command. */
const comment = (texts: readonly string[], indent: string): string =>
  texts
    .flatMap((text) => text.split(/\r\n?|\n/))
    .map((line) => `${indent}#${line === "" ? "" : ` ${line}`}\n`)
    .join("");

function commandText(command: Command, indent: string): string {
  const head = `${comment(command.comments, indent)}${indent}${testText(command, indent)}`;
  return command.block ? `${head} {\n${blockText(command.block, `${indent}  `)}${indent}}\n` : `${head};\n`;
}

const blockText = ({ commands, comments }: Block, indent: string): string =>
  commands.map((command) => commandText(command, indent)).join("") + comment(comments, indent);

/** A script as text, with a line free before what has a comment; read again, it is the same script. */
export const printScript = ({ commands, comments }: Block): string =>
  commands
    .map((command, i) => `${i > 0 && command.comments.length > 0 ? "\n" : ""}${commandText(command, "")}`)
    .join("") + comment(comments, "");
