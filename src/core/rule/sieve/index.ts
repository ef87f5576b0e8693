export { handOut, type HandedOut, type OutRule } from "./hand-out";
export { takeIn, type InRule, type Spot, type TakenIn } from "./take-in";
