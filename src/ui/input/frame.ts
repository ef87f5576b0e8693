import { frameOf, type FrameKeys } from "@/core/keys";
import { useView } from "../state/store";

/** Where this person's frame keys are. The same list until they are changed, so that a table is made of it once. */
const made = new WeakMap<object, FrameKeys>();
const USUAL = {};

export function useFrame(): FrameKeys {
  const moved = useView((v) => v.home?.settings.frame) ?? USUAL;
  let frame = made.get(moved);
  if (!frame) made.set(moved, (frame = frameOf(moved)));
  return frame;
}
