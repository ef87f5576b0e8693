import { Parser } from "htmlparser2";

/** What these hold is not shown, so it is not said either. */
const SILENT = new Set(["style", "script", "head", "title", "template", "noscript"]);
/** What stands in the middle of a line, and even of a word; anything else sets apart what stands on its two sides. */
const INLINE = new Set(
  "a abbr b bdi bdo cite code em font i ins kbd mark q s samp small span strike strong sub sup tt u var wbr".split(" "),
);
const LINES = new Set(["p", "div", "br", "tr", "li", "h1", "h2", "h3", "h4", "h5", "h6", "table", "blockquote", "hr"]);
const LONGEST = 200_000;

const between = (name: string): string => (INLINE.has(name) ? "" : LINES.has(name) ? "\n" : " ");

/** The words of an HTML text, for previews and search; nothing is shown from it as HTML. */
export function textOfHtml(html: string): string {
  const out: string[] = [];
  let silent = 0;
  const parser = new Parser(
    {
      onopentagname(name) {
        if (SILENT.has(name)) silent++;
        else out.push(between(name));
      },
      onclosetag(name) {
        if (SILENT.has(name)) silent--;
        else out.push(between(name));
      },
      ontext(text) {
        if (silent === 0) out.push(text);
      },
    },
    { decodeEntities: true },
  );
  parser.write(html.slice(0, LONGEST));
  parser.end();
  return out.join("");
}
