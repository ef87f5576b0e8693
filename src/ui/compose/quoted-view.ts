import DOMPurify from "dompurify";
import type { Node as DocNode } from "prosemirror-model";
import type { EditorView, NodeView } from "prosemirror-view";

/** The quoted original: one piece, folded, shown in a root of its own so that its style stays its own. */

const STYLE =
  "<style>:host{all:initial;display:block;contain:content;font:13px sans-serif;color:#42524f;border-inline-start:2px solid #6b7b77;padding-inline-start:8px;max-height:24em;overflow:auto;background:#fff}img{max-width:100%}</style>";

/** The original's HTML as it may be sent on: nothing that runs, fetches by itself, or asks for anything. */
export const cleanHtml = (html: string): string =>
  DOMPurify.sanitize(html, {
    FORBID_TAGS: ["style", "form", "input", "button", "textarea", "select", "svg", "math", "audio", "video", "iframe"],
    // The tail is needed: other attributes are tested with it, too.
    ALLOWED_URI_REGEXP: /^(?:(?:https?|mailto|tel|cid):|[^a-z]|[a-z+.-]+(?:[^a-z+.\-:]|$))/i,
  });

/** Pictures from elsewhere tell who is looking: only those that came with the message are shown. */
function shown(html: string, pictureAddress: (cid: string) => string | undefined): string {
  const local = html.replace(/(<(?:img|source)[^>]*?\ssrc=")cid:([^"]*)"/gi, (_, before: string, cid: string) => {
    return `${before}${pictureAddress(cid) ?? ""}"`;
  });
  return cleanHtml(local)
    .replace(/(<(?:img|source)[^>]*?)\s(?:src|srcset)="(?!data:image|\/api\/)[^"]*"/gi, "$1")
    .replace(/url\([^)]*\)/gi, "none");
}

const escape = (text: string): string =>
  text.replace(/[&<>]/g, (char) => (char === "&" ? "&amp;" : char === "<" ? "&lt;" : "&gt;"));

export class QuotedView implements NodeView {
  readonly dom = document.createElement("div");
  private readonly body = document.createElement("div");

  constructor(
    private node: DocNode,
    view: EditorView,
    getPos: () => number | undefined,
    private readonly pictureAddress: (cid: string) => string | undefined,
  ) {
    this.dom.contentEditable = "false";
    this.dom.dataset.quoted = "";
    this.body.attachShadow({ mode: "open" });
    this.body.hidden = true;
    const button = (name: string, act: () => void) => {
      const element = document.createElement("button");
      element.type = "button";
      element.textContent = name;
      element.className = "rounded-sm border border-rule bg-sheet px-2 py-0.5 text-xs text-ink-2";
      element.addEventListener("click", act);
      return element;
    };
    const fold = button("Show the quoted original", () => {
      this.body.hidden = !this.body.hidden;
      fold.textContent = this.body.hidden ? "Show the quoted original" : "Fold the quoted original";
    });
    const drop = button("Leave it out", () => {
      const at = getPos();
      if (at !== undefined) view.dispatch(view.state.tr.delete(at, at + this.node.nodeSize));
      view.focus();
    });
    const bar = document.createElement("div");
    bar.className = "my-1.5 flex gap-2";
    bar.append(fold, drop);
    this.dom.append(bar, this.body);
    this.show();
  }

  private show(): void {
    const { intro, text, html } = this.node.attrs as { intro: string; text: string; html: string | null };
    const inner =
      html === null ? `<pre style="white-space:pre-wrap">${escape(text)}</pre>` : shown(html, this.pictureAddress);
    this.body.shadowRoot!.innerHTML = `${STYLE}<p style="white-space:pre-line">${escape(intro)}</p>${inner}`;
  }

  update(node: DocNode): boolean {
    if (node.type !== this.node.type) return false;
    this.node = node;
    this.show();
    return true;
  }

  ignoreMutation = (): boolean => true;
  stopEvent = (event: Event): boolean => event.type !== "keydown" && event.target instanceof HTMLButtonElement;
}
