import { useEffect, useState } from "react";
import { codeName } from "@/core/keys";

type KeyboardApi = { getLayoutMap(): Promise<ReadonlyMap<string, string>> };

/** What the person's layout prints on a key, where the browser tells; else what most layouts print. */
export function useKeyLabels(): (code: string) => string {
  const [map, setMap] = useState<ReadonlyMap<string, string> | null>(null);
  useEffect(() => {
    const api = (navigator as Navigator & { keyboard?: KeyboardApi }).keyboard;
    api?.getLayoutMap().then(setMap, () => undefined);
  }, []);
  return (code) => {
    const printed = map?.get(code);
    return printed && printed.length === 1 ? printed.toUpperCase() : codeName(code);
  };
}
