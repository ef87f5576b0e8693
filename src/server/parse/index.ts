export { partsOf } from "./parts";
export { ParsePool } from "./pool";
export type { ParsedItem, WordsItem } from "./parse-worker";
