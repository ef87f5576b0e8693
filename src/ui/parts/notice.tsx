"use client";
import { useView } from "../state/store";

/** What has just happened, with a way back where that is one press. The shell says it to screen readers. */
export function Notice({ className, testId }: { readonly className: string; readonly testId?: string }) {
  const notice = useView((v) => v.notice);
  return (
    <p
      data-testid={testId}
      className={`min-h-[1.35em] truncate ${notice?.tone === "trouble" ? "font-semibold text-brick" : "text-ink-2"} ${className}`}
      title={notice?.text}
    >
      {notice?.action && (
        <button type="button" onClick={notice.action.act} className="mr-2 text-ink underline">
          {notice.action.name}
        </button>
      )}
      {notice?.text}
    </p>
  );
}
