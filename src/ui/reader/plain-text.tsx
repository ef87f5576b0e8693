const LINK = /https?:\/\/[^\s<>"')\]]+/g;

/** A line with its addresses as links, which open in a new tab and tell nobody where from. */
function linked(text: string) {
  const out: React.ReactNode[] = [];
  let at = 0;
  for (const found of text.matchAll(LINK)) {
    out.push(text.slice(at, found.index));
    out.push(
      <a key={found.index} href={found[0]} target="_blank" rel="noopener noreferrer" className="break-all underline">
        {found[0]}
      </a>,
    );
    at = found.index + found[0].length;
  }
  return [...out, text.slice(at)];
}

/** Plain text as it was written, quoted lines quieter than one's own. */
export function PlainText({ text }: { readonly text: string }) {
  const blocks = text
    .replace(/\r\n/g, "\n")
    .trim()
    .split(/\n{2,}/);
  return (
    <div className="mt-3 max-w-[62ch]">
      {blocks.slice(0, 2000).map((block, i) => (
        <p
          key={i}
          className={`my-2.5 break-words whitespace-pre-wrap ${/^\s*>/.test(block) || /\n>/.test(block) ? "text-ink-3" : ""}`}
        >
          {linked(block)}
        </p>
      ))}
    </div>
  );
}
