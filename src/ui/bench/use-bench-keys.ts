"use client";
import { useEffect, useMemo, useState } from "react";
import { bindingsOf, type Layer } from "@/core/keys";
import { useFrame } from "../input/frame";
import { useKeyboard } from "../input/keyboard";
import { set, useView } from "../state/store";
import { foreseeMacro, peek, perform, sayEmpty } from "./commands";

/** Which layer is up: the second while Shift is held. */
function useLayer(): Layer {
  const [layer, setLayer] = useState<Layer>("plain");
  useEffect(() => {
    const look = (event: KeyboardEvent) =>
      event.key === "Shift" && setLayer(event.type === "keydown" ? "shift" : "plain");
    const reset = () => setLayer("plain");
    window.addEventListener("keydown", look);
    window.addEventListener("keyup", look);
    window.addEventListener("blur", reset);
    return () => {
      window.removeEventListener("keydown", look);
      window.removeEventListener("keyup", look);
      window.removeEventListener("blur", reset);
    };
  }, []);
  return layer;
}

const waiting = (typed: readonly string[]) => set({ typed });

/** The keys of the frame and of the deck that is up, where messages are decided. @returns the layer that is up */
export function useBenchKeys(): Layer {
  const dialog = useView((v) => v.dialog);
  const decks = useView((v) => v.decks);
  const current = useView((v) => v.peek ?? v.deck);
  const composing = useView((v) => v.composing);
  const layer = useLayer();
  const deck = decks.find((d) => d.number === current) ?? null;
  const frame = useFrame();
  const bindings = useMemo(() => bindingsOf(frame, deck), [frame, deck]);
  useKeyboard({
    bindings,
    onCommand: perform,
    onPeek: peek,
    onWaiting: waiting,
    onForesee: foreseeMacro,
    onEmpty: sayEmpty,
    // While a letter is open, no letter that is typed decides about mail.
    enabled: dialog === null && composing === null,
  });
  return layer;
}
