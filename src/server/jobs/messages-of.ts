import { MboxSplitter, MOST_MESSAGE_BYTES, type MboxItem } from "@/core/mail";
import type { Problem } from "./rows";

const PROBLEM_TEXT = {
  "before-first-message": "These bytes stand before the first message and belong to none.",
  "too-large": `The message is larger than ${MOST_MESSAGE_BYTES / 1024 / 1024} MB.`,
} as const;

/** The messages of a file: an mbox when it begins like one, else one message. */
export async function* messagesOf(
  file: AsyncIterable<Uint8Array>,
  offset: number,
  note: (problem: Problem) => void,
): AsyncGenerator<MboxItem> {
  let splitter: MboxSplitter | null = null;
  let single: Uint8Array[] = [];
  let noted = 0;
  const pass = function* (items: Iterable<MboxItem>) {
    yield* items;
    for (; splitter && noted < splitter.problems.length; noted++) {
      const problem = splitter.problems[noted]!;
      note({ offset: problem.offset, reason: PROBLEM_TEXT[problem.reason] });
    }
  };
  for await (const chunk of file) {
    if (!splitter && single.length === 0 && (offset > 0 || looksLikeMbox(chunk))) splitter = new MboxSplitter(offset);
    if (splitter) yield* pass(splitter.push(chunk));
    else if (single.reduce((sum, piece) => sum + piece.length, 0) + chunk.length > MOST_MESSAGE_BYTES) {
      note({ offset: 0, reason: PROBLEM_TEXT["too-large"] });
      return;
    } else single.push(chunk);
  }
  if (splitter) yield* pass(splitter.finish());
  else if (single.length > 0) {
    const raw = new Uint8Array(Buffer.concat(single));
    single = [];
    yield { offset: 0, end: raw.length, raw };
  }
}

/**
 * Some mailbox files begin with empty lines, or with rubbish: what begins with a header field is one message,
 * anything else that has a separator line is a mailbox.
 */
function looksLikeMbox(chunk: Uint8Array): boolean {
  const text = Buffer.from(chunk.subarray(0, 64 * 1024)).toString("latin1");
  if (/^\s*From /.test(text)) return true;
  return !/^[!-9;-~]+:/.test(text) && /\nFrom [^\n]{0,400}\d:\d\d[^\n]{0,60}\r?\n/.test(text);
}
