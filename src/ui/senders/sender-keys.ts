import { useHeard } from "../input/heard";

interface Acts {
  readonly leave: () => void;
  readonly aside: () => void;
  readonly block: () => void;
}

/** The keys that act on senders themselves: none is a letter, since those are the deck's. */
export function useSenderKeys(isOn: boolean, acts: Acts): void {
  const down = (event: KeyboardEvent) => {
    const { code, shiftKey } = event;
    const act = code === "Delete" ? (shiftKey ? "block" : "leave") : code === "Backspace" && !shiftKey ? "aside" : null;
    if (act === null || event.repeat || event.ctrlKey || event.altKey || event.metaKey) return;
    if (event.target instanceof HTMLInputElement && event.target.type !== "checkbox") return;
    event.preventDefault();
    acts[act]();
  };
  useHeard("keydown", down, { isOn });
}
