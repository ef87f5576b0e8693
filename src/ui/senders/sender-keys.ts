import { useEffect, useRef } from "react";

interface Acts {
  readonly leave: () => void;
  readonly aside: () => void;
  readonly block: () => void;
}

/** The keys that act on senders themselves: none is a letter, since those are the deck's. */
export function useSenderKeys(isOn: boolean, acts: Acts): void {
  const latest = useRef(acts);
  useEffect(() => {
    latest.current = acts;
  });
  useEffect(() => {
    const down = (event: KeyboardEvent) => {
      const { code, shiftKey } = event;
      const act =
        code === "Delete" ? (shiftKey ? "block" : "leave") : code === "Backspace" && !shiftKey ? "aside" : null;
      if (!isOn || act === null || event.repeat || event.ctrlKey || event.altKey || event.metaKey) return;
      if (event.target instanceof HTMLInputElement && event.target.type !== "checkbox") return;
      event.preventDefault();
      latest.current[act]();
    };
    window.addEventListener("keydown", down);
    return () => window.removeEventListener("keydown", down);
  }, [isOn]);
}
