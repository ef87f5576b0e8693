import { useState } from "react";

/**
 * The text of a field that is stored as it is left. Changed elsewhere, by undo or in another window, it is shown, but
 * not into what is being typed: that stays, and is stored when it is left.
 * @returns the text; what takes in what is typed; and what is told that nothing is being typed any more, with what
 *   stands there then
 */
export function useLeftText(value: string) {
  const [text, setText] = useState(value);
  const [typing, setTyping] = useState(false);
  const [stored, setStored] = useState(value);
  if (stored !== value) {
    setStored(value);
    if (!typing) setText(value);
  }
  const type = (next: string) => {
    setText(next);
    setTyping(true);
  };
  const rest = (left = text) => {
    setText(left);
    setTyping(false);
  };
  return { text, type, rest };
}
