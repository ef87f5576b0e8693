import { Marked } from "../parts/marked";

const LINK = /https?:\/\/[^\s<>"')\]]+/g;
const MOST_BLOCKS = 2000;

interface Props {
  readonly text: string;
  readonly sought?: readonly string[];
  readonly textPx?: number;
}

/** A line with its addresses as links, which open in a new tab and tell nobody where from. */
function linked(text: string, sought: readonly string[]) {
  const out: React.ReactNode[] = [];
  let at = 0;
  for (const found of text.matchAll(LINK)) {
    out.push(<Marked key={`before ${found.index}`} text={text.slice(at, found.index)} sought={sought} />);
    out.push(
      <a key={found.index} href={found[0]} target="_blank" rel="noopener noreferrer" className="break-all underline">
        {found[0]}
      </a>,
    );
    at = found.index + found[0].length;
  }
  return [...out, <Marked key="last" text={text.slice(at)} sought={sought} />];
}

const isQuoted = (line: string): boolean => /^\s*>/.test(line);

interface Part {
  readonly quoted: boolean;
  readonly lines: readonly string[];
}

/** The text in turns: one's own lines, and lines quoted from earlier. */
function partsOf(text: string): Part[] {
  const parts: { quoted: boolean; lines: string[] }[] = [];
  for (const line of text.replace(/\r\n/g, "\n").trim().split("\n")) {
    const quoted = isQuoted(line);
    const last = parts.at(-1);
    // An empty line between quoted ones belongs to them.
    if (last && (last.quoted === quoted || (last.quoted && line.trim() === ""))) last.lines.push(line);
    else parts.push({ quoted, lines: [line] });
  }
  return parts;
}

function Blocks({ lines, sought }: { readonly lines: readonly string[]; readonly sought: readonly string[] }) {
  return lines
    .join("\n")
    .trim()
    .split(/\n{2,}/)
    .slice(0, MOST_BLOCKS)
    .map((block, i) => (
      <p key={i} className="my-2.5 break-words whitespace-pre-wrap">
        {linked(block, sought)}
      </p>
    ));
}

/** Plain text as it was written; what is quoted from earlier is folded to a line, unless it holds what is sought. */
export function PlainText({ text, sought = [], textPx }: Props) {
  return (
    <div className="mt-3 max-w-[62ch]" style={textPx === undefined ? undefined : { fontSize: textPx }}>
      {partsOf(text).map((part, i) =>
        part.quoted ? (
          <details key={`${i} ${sought.join()}`} className="my-2 text-ink-3" open={sought.length > 0}>
            <summary className="cursor-pointer text-[13px]">
              quoted, {part.lines.length} {part.lines.length === 1 ? "line" : "lines"}
            </summary>
            <Blocks lines={part.lines} sought={sought} />
          </details>
        ) : (
          <Blocks key={i} lines={part.lines} sought={sought} />
        ),
      )}
    </div>
  );
}
