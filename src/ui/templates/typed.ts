import { useCallback, useEffect, useRef } from "react";
import { write } from "../state/api";
import { notify } from "../state/store";
import { inLine } from "../state/writes";

/** Typing has come to a rest after so long. */
const PAUSE_MS = 700;

/**
 * Stores what is typed into the fields of something once typing rests, and at once when it is left: all of what was
 * typed since it was stored last, in whichever fields. What could not be stored goes along with what is typed next.
 * @param path of the thing in the API, by PATCH
 */
export function useTyped<T extends object>(path: string) {
  const typed = useRef<Partial<T>>({});
  const timer = useRef<ReturnType<typeof setTimeout>>(undefined);
  const store = useCallback(() => {
    clearTimeout(timer.current);
    const fields = typed.current;
    if (Object.keys(fields).length === 0) return;
    typed.current = {};
    inLine(() => write("PATCH", path, fields)).catch((error: Error) => {
      typed.current = { ...fields, ...typed.current };
      notify(`Not stored: ${error.message}`, "trouble");
    });
  }, [path]);
  useEffect(() => {
    window.addEventListener("pagehide", store);
    return () => {
      window.removeEventListener("pagehide", store);
      store();
    };
  }, [store]);
  const put = useCallback(
    (fields: Partial<T>) => {
      typed.current = { ...typed.current, ...fields };
      clearTimeout(timer.current);
      timer.current = setTimeout(store, PAUSE_MS);
    },
    [store],
  );
  return { put, store };
}
