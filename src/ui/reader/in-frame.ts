import { piecesOf } from "@/core/narrow";
import { USUAL_TEXT_PX } from "../state/look";

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

/** The size of text that safe-html's page has. */
const PAGE_PX = 14;
/** Smaller than this nobody reads: what does not fit then is pushed sideways. */
const LEAST_SCALE = 0.5;

/**
 * Scales the page: mail that sets its own sizes keeps their proportions, and one made for a wider page fits. Text that
 * is wanted larger than usual is larger all the same.
 */
export function zoom({ body, documentElement: root }: Document, textPx: number): void {
  const asked = Math.min(textPx, USUAL_TEXT_PX) / PAGE_PX;
  const overAt = (scale: number): number => {
    body.style.zoom = String(scale);
    return root.scrollWidth / root.clientWidth;
  };
  let scale = asked;
  const first = overAt(asked);
  // What is made smaller has more room, and may spread in it: it is tried twice.
  for (let tries = 0, over = first; over > 1 && tries < 2; tries++) {
    scale = Math.max(LEAST_SCALE, (0.99 * scale) / over);
    over = overAt(scale);
    // What is wider than its frame at every scale gains nothing by being small.
    if (over - 1 > (first - 1) / 2) {
      scale = asked;
      break;
    }
  }
  body.style.zoom = String((scale * Math.max(textPx, USUAL_TEXT_PX)) / USUAL_TEXT_PX);
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

const TOUCHES = ["pointerdown", "pointermove", "pointerup", "pointercancel"] as const;

/** A thumb inside the frame is a thumb on what the frame lies in: there it may be a swipe. Wide pages scroll instead. */
export function passTouchesOn(page: Document, frame: HTMLElement): void {
  if (page.documentElement.scrollWidth > page.documentElement.clientWidth) return;
  // What goes across is no scrolling of the browser's.
  page.documentElement.style.touchAction = "pan-y";
  let isSwipe = false;
  page.addEventListener("touchmove", (event) => isSwipe && event.cancelable && event.preventDefault(), {
    passive: false,
  });
  for (const type of TOUCHES)
    page.addEventListener(type, (event) => {
      if (event.pointerType === "mouse") return;
      const { left, top } = frame.getBoundingClientRect();
      const { pointerId, pointerType, isPrimary, button, buttons } = event;
      isSwipe = !frame.dispatchEvent(
        new PointerEvent(type, {
          pointerId,
          pointerType,
          isPrimary,
          button,
          buttons,
          clientX: event.clientX + left,
          clientY: event.clientY + top,
          bubbles: true,
          cancelable: true,
        }),
      );
    });
}
