/**
 * What happens, a line each, for whoever runs the app: never mail, nor anything that somebody has written. So what is
 * said is numbers, and words that the code itself has; of an error, what kind it is and where it was thrown.
 */

/** Which part of the code, of the API or of the work it was. */
export interface Words {
  readonly kind?: string;
  readonly code?: string;
  readonly where?: string;
  readonly method?: string;
  /** As the API's description names it. */
  readonly route?: string;
  readonly work?: string;
}
export type Counts = Readonly<Record<string, number>>;

interface Entry extends Words {
  readonly at: Date;
  readonly level: "info" | "error";
  /** web or jobs */
  readonly process: string;
  /** What happened, always in the same words. */
  readonly what: string;
  readonly counts: Counts;
}

/** @param form an object a line, or for reading */
export function lineOf({ at, level, process, what, counts, ...words }: Entry, form: "json" | "text"): string {
  if (form === "json") return JSON.stringify({ at: at.toISOString(), level, process, what, ...words, ...counts });
  const said = Object.entries({ ...counts, ...words })
    .filter(([, value]) => value !== "")
    .map(([name, value]) => `${name} ${value}`);
  return `${process}: ${[what, ...said].join(", ")}`;
}

const FRAMES = 3;

/**
 * What may be said of an error. Its message may hold a part of what was being read, and is left out.
 */
export function faultOf(error: unknown): Required<Pick<Words, "kind" | "code" | "where">> {
  const { cause } = (error ?? {}) as { cause?: unknown };
  const inner = cause instanceof Error ? cause : error;
  if (!(inner instanceof Error)) return { kind: typeof inner, code: "", where: "" };
  const frames = (inner.stack ?? "")
    .replace(inner.message, "")
    .split("\n")
    .filter((line) => /^ +at /.test(line))
    .slice(0, FRAMES);
  const { code } = inner as { code?: unknown };
  return {
    kind: inner.name,
    code: typeof code === "string" || typeof code === "number" ? String(code) : "",
    where: frames.map((line) => line.trim().slice("at ".length)).join(" < "),
  };
}

/** Where lines go: a process's standard error, and for tests somewhere else. */
export class Log {
  constructor(private readonly write: (line: string) => void) {}

  private say(level: Entry["level"], what: string, counts: Counts, words: Words): void {
    const { TACHYNE_PROCESS = "web", TACHYNE_LOG } = process.env;
    const entry = { at: new Date(), level, process: TACHYNE_PROCESS, what, counts, ...words };
    this.write(lineOf(entry, TACHYNE_LOG === "json" ? "json" : "text"));
  }

  info(what: string, counts: Counts = {}, words: Words = {}): void {
    this.say("info", what, counts, words);
  }

  fault(what: string, error: unknown, words: Words = {}, counts: Counts = {}): void {
    this.say("error", what, counts, { ...words, ...faultOf(error) });
  }
}

/** Whoever reads what this process says has gone: it goes on, and does not complain of that without end. */
export function keepOnUnheard(): void {
  for (const stream of [process.stdout, process.stderr]) stream.on("error", () => undefined);
}

export const log = new Log((line) => console.error(line));
