import { useState, type FormEvent, type ReactNode } from "react";

interface SendsProps {
  readonly label: string;
  readonly button: string;
  /** Whether all that is needed is written. */
  readonly isReady: boolean;
  /** @throws what went wrong, in words */
  readonly send: () => Promise<void>;
  readonly children: ReactNode;
}

/** A form that sends once at a time, and says why it could not. */
export function Sends({ label, button, isReady, send, children }: SendsProps) {
  const [said, setSaid] = useState<string | null>(null);
  const [isBusy, setBusy] = useState(false);
  const submit = async (event: FormEvent) => {
    event.preventDefault();
    if (isBusy || !isReady) return;
    setBusy(true);
    setSaid(null);
    try {
      await send();
    } catch (error) {
      setSaid(error instanceof Error ? error.message : "The server could not be asked.");
    }
    setBusy(false);
  };
  return (
    <form aria-label={label} onSubmit={(event) => void submit(event)} className="grid gap-3" noValidate>
      {children}
      {said !== null && (
        <p role="alert" className="rounded-sm bg-brick-soft px-2.5 py-1.5 text-[13px]">
          {said}
        </p>
      )}
      <button
        type="submit"
        disabled={isBusy || !isReady}
        className="justify-self-start rounded-sm bg-ink px-4 py-1.5 text-paper disabled:bg-ink-3"
      >
        {isBusy ? "One moment…" : button}
      </button>
    </form>
  );
}
