import { useEffect } from "react";

/** What is done where the page is left while somebody writes: no field is left by that. */
export function useLeaving(act: () => void): void {
  useEffect(() => {
    window.addEventListener("pagehide", act);
    return () => window.removeEventListener("pagehide", act);
  });
}
