import { textOfIssue, type Issue } from "@/core/narrow";

interface Props {
  readonly text: string;
  readonly issues: readonly Issue[];
  /** Puts a mended expression in the place of what was typed. */
  readonly onRepair: (text: string) => void;
}

/** What would mend an issue, where that can be told. */
function repaired(text: string, issue: Issue): { readonly name: string; readonly text: string } | null {
  const put = (word: string) => text.slice(0, issue.span.from) + word + text.slice(issue.span.to);
  if ((issue.code === "unknown-field" || issue.code === "unknown-name") && issue.near)
    return { name: issue.near, text: put(/\s/.test(issue.near) ? `"${issue.near}"` : issue.near) };
  if (issue.code === "colon")
    return {
      name: `${issue.field}${issue.use}`,
      text: text.slice(0, issue.span.from) + issue.use + text.slice(issue.span.to).trimStart(),
    };
  if (issue.code === "unclosed-quote") return { name: 'add a "', text: `${text}"` };
  if (issue.code === "unclosed-paren") return { name: "add a )", text: `${text})` };
  if (issue.code === "stray") return { name: "take it out", text: put("").replace(/\s{2,}/g, " ") };
  return null;
}

/** What is wrong with an expression, where, and what would mend it. */
export function Problem({ text, issues, onRepair }: Props) {
  return (
    <div
      id="narrow-problem"
      role="alert"
      className="absolute top-[36px] left-0 z-20 max-w-[640px] min-w-72 max-md:inset-x-2 max-md:top-[42px] rounded-md border border-brick bg-brick-soft px-3 py-2 text-ink"
    >
      {issues.map((issue, i) => {
        const mended = repaired(text, issue);
        return (
          <div key={i} className="mb-1 last:mb-0">
            <code className="text-ink-2">
              {text.slice(0, issue.span.from)}
              <span className="font-bold text-brick underline decoration-wavy">
                {text.slice(issue.span.from, issue.span.to) || "…"}
              </span>
              {text.slice(issue.span.to)}
            </code>
            <p className="font-sans whitespace-normal">
              {textOfIssue(issue)}{" "}
              {mended && (
                <button type="button" onClick={() => onRepair(mended.text)} className="underline">
                  {mended.name}
                </button>
              )}
            </p>
          </div>
        );
      })}
    </div>
  );
}
