import { notify } from "../state/store";
import { BUTTON } from "./sessions";

interface ShownOnceProps {
  readonly label: string;
  readonly value: string;
  /** What is said once it was copied. */
  readonly copied: string;
}

/** Something long to be taken along, by a button or by hand. */
export function ShownOnce({ label, value, copied }: ShownOnceProps) {
  const copy = () =>
    navigator.clipboard.writeText(value).then(
      () => notify(copied),
      () => notify("The browser does not let it be copied: mark it, and copy it by hand.", "trouble"),
    );
  return (
    <>
      <input
        readOnly
        aria-label={label}
        value={value}
        onFocus={({ target }) => target.select()}
        className="w-[480px] max-w-full rounded-sm border border-edge bg-sheet px-2 py-1 font-mono text-xs"
      />
      <button type="button" onClick={() => void copy()} className={BUTTON}>
        Copy
      </button>
    </>
  );
}
