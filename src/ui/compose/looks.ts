import { useQuery } from "@tanstack/react-query";
import type { Mistake } from "@/core/letter";
import { folderFor } from "@/core/place";
import { looksFor, type Leaving } from "@/core/rule";
import { checkNarrow } from "../state/browse";
import { rules } from "../state/reads";
import { view } from "../state/store";

/** What rules on sending ask to be looked at once more, as something that may be wrong with the letter. */
export function useLooks(own: readonly { readonly address: string }[]): (letter: Leaving) => Mistake[] {
  const { data = [] } = useQuery(rules);
  const asking = data.flatMap(({ on, time, look, narrow, moreThan, outside }) => {
    const checked = checkNarrow(narrow);
    return on && time === "sending" && look !== null && checked.ok
      ? [{ test: checked.test, look, moreThan, outside }]
      : [];
  });
  return (letter) => {
    const outbox = folderFor(view().directory, "outbox");
    if (!outbox || asking.length === 0) return [];
    const addresses = own.map(({ address }) => address);
    return looksFor(asking, letter, addresses, outbox.id, new Date()).map((text) => ({
      severity: "asks",
      code: "look",
      text,
      repair: { text: "Go back to the letter", mending: { do: "go to", field: "to" } },
    }));
  };
}
