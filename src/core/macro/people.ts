import { sourceOf } from "../change";
import { TRAIT } from "../narrow";
import { factsOf, skip } from "./get";
import type { Made, Op, Run } from "./op";

/** Steps about whoever a message came from. */

/** The address the message came from, for steps about its sender. */
export const sender =
  (make: (address: string, name: string) => Made): Op =>
  (run) => {
    const { fromAddress, fromName } = factsOf(run);
    if (fromAddress === "") return skip("no-sender");
    run.make(make(fromAddress.toLowerCase(), fromName));
    return "go-on";
  };

/** The list a message came from, or else its sender, for steps about all their mail. */
export const ofSource =
  (use: (run: Run, of: string) => void): Op =>
  (run) => {
    const { list, fromAddress, traits } = factsOf(run);
    if ((traits & TRAIT.mine) !== 0) return skip("own-mail");
    if (list === "" && fromAddress === "") return skip("no-sender");
    use(run, sourceOf(list, fromAddress));
    return "go-on";
  };

/** "@larch.example": what blocks everybody there. */
export const domainOf = (address: string): string => address.slice(address.lastIndexOf("@"));
