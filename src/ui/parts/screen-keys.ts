import { useMemo } from "react";
import { bindingsOf, type Command, type FrameAction } from "@/core/keys";
import { useFrame } from "../input/frame";
import { useKeyboard } from "../input/keyboard";
import { set, useView } from "../state/store";

const nothing = () => undefined;

/** The frame keys on a screen without messages: going to, every key, and what the screen does itself. */
export function useScreenKeys(own: Partial<Record<FrameAction, () => void>> = {}): void {
  const dialog = useView((v) => v.dialog);
  const frame = useFrame();
  const bindings = useMemo(() => bindingsOf(frame, null), [frame]);
  const perform = (command: Command) => {
    if (command.kind !== "frame") return;
    if (command.action === "goTo") set({ dialog: { kind: "go" } });
    else if (command.action === "keys") set({ dialog: { kind: "keys" } });
    else own[command.action]?.();
  };
  useKeyboard({ bindings, onCommand: perform, onPeek: nothing, onWaiting: nothing, enabled: dialog === null });
}
