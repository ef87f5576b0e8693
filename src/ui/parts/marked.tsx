import { piecesOf } from "@/core/narrow";

/** A text with what was looked for marked in it. */
export function Marked({ text, sought }: { readonly text: string; readonly sought: readonly string[] }) {
  if (sought.length === 0) return text;
  return piecesOf(text, sought).map((piece, i) =>
    piece.hit ? (
      <mark key={i} className="rounded-[2px] bg-amber-soft text-ink underline decoration-amber decoration-2">
        {piece.text}
      </mark>
    ) : (
      piece.text
    ),
  );
}
