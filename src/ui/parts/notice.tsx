"use client";
import { undoLast } from "../state/edits";
import { useView } from "../state/store";
import { useAfterPaint } from "./use-after-paint";

interface Props {
  readonly className: string;
  readonly testId?: string;
  /** Whether the screen has a button of its own that takes back. */
  readonly hasUndo?: boolean;
}

const BUTTON = "mr-2 text-ink underline";
const BY_TOUCH =
  "mr-2 hidden rounded-sm border border-edge bg-sheet px-2 py-1 font-semibold text-ink pointer-coarse:inline-block";
/** What is said of the key, which by touch is a button. */
const BY_KEY = / U (takes|brings) it back/;

/**
 * What has just happened, with a way back where that is one press. It is painted after the list that a key was pressed
 * for; the shell says it to screen readers.
 */
export function Notice({ className, testId, hasUndo = false }: Props) {
  const notice = useAfterPaint(useView((v) => v.notice));
  const text = notice?.text ?? "";
  const at = text.search(BY_KEY);
  return (
    <p
      data-testid={testId}
      className={`min-h-[1.35em] truncate ${notice?.tone === "trouble" ? "font-semibold text-brick" : "text-ink-2"} ${className}`}
      title={text}
    >
      {notice?.action && (
        <button type="button" onClick={notice.action.act} className={BUTTON}>
          {notice.action.name}
        </button>
      )}
      {at >= 0 && !hasUndo && (
        <button type="button" onClick={() => void undoLast()} className={BY_TOUCH}>
          Take back
        </button>
      )}
      {at < 0 ? text : text.slice(0, at)}
      {at >= 0 && <span className="pointer-coarse:hidden">{text.slice(at)}</span>}
    </p>
  );
}

/** In a screen's header: on a phone, whose headers are full, in a line of its own and as long as it is. */
export const HeaderNotice = () => (
  <Notice
    testId="notice"
    className="min-w-0 flex-1 text-[13px] max-md:order-last max-md:basis-full max-md:whitespace-normal max-md:empty:hidden"
  />
);
