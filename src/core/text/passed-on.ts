/** Mail as tidy text, for passing it on outside mail: into a chat, a ticket, a note. */

export interface Passed {
  readonly subject: string;
  readonly from: string;
  readonly to: string;
  readonly date: string;
  readonly text: string;
  /** Names of what is attached. */
  readonly files: readonly string[];
  /** Where it is read here. */
  readonly link: string;
}

const lines = (text: string): string[] =>
  text
    .replace(/\r\n?/g, "\n")
    .split("\n")
    .map((line) => line.replace(/[\s\u00a0]+$/, ""));

const joined = (all: readonly string[]): string =>
  all
    .join("\n")
    .replace(/\n{3,}/g, "\n\n")
    .replace(/^\n+|\n+$/g, "");

const QUOTED = /^\s*>/;

/** The text without what it quotes at its end, and without the line that says whom. */
export function ownWords(text: string): string {
  const all = lines(text);
  let end = all.length;
  while (end > 0 && (QUOTED.test(all[end - 1]!) || all[end - 1] === "")) end--;
  if (!all.slice(end).some((line) => QUOTED.test(line))) return joined(all);
  // "On Friday Ines wrote:" may take two lines.
  const said = all.slice(Math.max(0, end - 2), end);
  if (said.at(-1)?.endsWith(":")) end -= said.length === 2 && said[0] !== "" && !/[.!?]$/.test(said[0]!) ? 2 : 1;
  return joined(all.slice(0, end));
}

/** One message: what it is about, from whom, when, where to read it here, and its words. */
export function passedMessage({ subject, from, to, date, text, files, link }: Passed): string {
  const head = [
    subject || "(no subject)",
    `From: ${from}`,
    ...(to === "" ? [] : [`To: ${to}`]),
    `Date: ${date}`,
    ...(files.length === 0 ? [] : [`Attached: ${files.join(", ")}`]),
    link,
  ];
  return `${head.map((line) => line.replace(/\s+/g, " ").trim()).join("\n")}\n\n${joined(lines(text))}\n`;
}

const RULE = "-".repeat(40);

/** A thread, oldest first: each in its own words, since what it quotes stands above it. */
export const passedThread = (messages: readonly Passed[]): string =>
  messages.map((one) => passedMessage({ ...one, text: ownWords(one.text) })).join(`\n${RULE}\n\n`);

/** Several messages as a list, one line each. */
export const passedList = (messages: readonly Pick<Passed, "subject" | "from" | "date" | "link">[]): string =>
  messages
    .map(({ date, from, subject, link }) =>
      `${date}  ${from}: ${subject || "(no subject)"}  ${link}`.replace(/[\r\n\t]+/g, " "),
    )
    .join("\n")
    .concat("\n");
