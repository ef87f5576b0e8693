import { useEffect } from "react";
import { leavePass } from "../state/pass";
import { set, useView, view, type View } from "../state/store";

/** What lies over the list on a small screen, the topmost first, with how it is left. */
const LAYERS: readonly (readonly [isOpen: (v: View) => boolean, leave: () => void])[] = [
  [(v) => v.dialog !== null, () => set({ dialog: null })],
  [(v) => v.rackOpen, () => set({ rackOpen: false })],
  [(v) => v.pass !== null, leavePass],
  [(v) => v.opened, () => set({ opened: false })],
];

type State = { readonly layer?: boolean } | null;

/**
 * On a small screen the gesture that goes back leaves what lies over the list, one thing at a time, as one expects of
 * it, and not the app. One entry of the history stands for all of it: what is closed by other means leaves it there,
 * since taking it back would race with a screen that is being gone to.
 */
export function useBackGesture(isOn: boolean): void {
  const open = useView((v) => (v.composing === null ? LAYERS.filter(([isOpen]) => isOpen(v)).length : 0));
  useEffect(() => {
    if (isOn && open > 0 && (history.state as State)?.layer !== true)
      history.pushState({ ...(history.state as object | null), layer: true }, "");
  }, [isOn, open]);
  useEffect(() => {
    if (!isOn) return;
    const back = () => {
      // A letter is left by its own button: a slip of the thumb must not close it.
      if (view().composing === null) LAYERS.find(([isOpen]) => isOpen(view()))?.[1]();
    };
    window.addEventListener("popstate", back);
    return () => window.removeEventListener("popstate", back);
  }, [isOn]);
}
