import { piecesOf } from "@/core/narrow";

/** What is done to a message's HTML once it is in its frame: plain changes of its document, no script of its own. */

/** Where marking stops: nobody reads so many hits. */
const MOST_MARKS = 500;

/** Marks what is sought in every text of the page. */
export function markIn(page: Document, sought: readonly string[]): void {
  for (const old of page.querySelectorAll("mark[data-sought]"))
    old.replaceWith(page.createTextNode(old.textContent ?? ""));
  page.body.normalize();
  if (sought.length === 0) return;
  const walker = page.createTreeWalker(page.body, 4 /* NodeFilter.SHOW_TEXT */);
  const texts: Text[] = [];
  while (walker.nextNode())
    if (walker.currentNode.parentElement?.tagName !== "STYLE") texts.push(walker.currentNode as Text);
  let marks = 0;
  for (const text of texts) {
    if (marks >= MOST_MARKS) return;
    const pieces = piecesOf(text.data, sought);
    if (!pieces.some((piece) => piece.hit)) continue;
    text.parentElement?.closest("details")?.setAttribute("open", "");
    text.replaceWith(
      ...pieces.map((piece) => {
        if (!piece.hit) return page.createTextNode(piece.text);
        const mark = page.createElement("mark");
        mark.dataset.sought = "";
        mark.textContent = piece.text;
        marks++;
        return mark;
      }),
    );
  }
}

/** Folds what is quoted from earlier into a line that opens with a press. */
export function foldQuotes(page: Document): void {
  for (const quote of page.querySelectorAll("blockquote")) {
    if (quote.closest("details") || (quote.textContent ?? "").trim() === "") continue;
    const details = page.createElement("details");
    const summary = page.createElement("summary");
    summary.textContent = "quoted";
    quote.replaceWith(details);
    details.append(summary, quote);
  }
}

/** Scales the page: mail that sets its own sizes keeps their proportions. */
export function zoom(page: Document, factor: number): void {
  page.body.style.zoom = String(factor);
}

/** Keys pressed inside the frame mean the same as outside of it. */
export function passKeysOn(page: Document): void {
  for (const type of ["keydown", "keyup"] as const)
    page.addEventListener(type, (event) => {
      const copy = new KeyboardEvent(type, {
        code: event.code,
        key: event.key,
        shiftKey: event.shiftKey,
        ctrlKey: event.ctrlKey,
        altKey: event.altKey,
        metaKey: event.metaKey,
        repeat: event.repeat,
        bubbles: true,
        cancelable: true,
      });
      document.body.dispatchEvent(copy);
      if (copy.defaultPrevented) event.preventDefault();
    });
}
