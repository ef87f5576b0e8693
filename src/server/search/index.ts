export { conditionOf } from "./sql";
export { countMatches, messageJoin, pageOfIds } from "./messages";
export { vectorOf } from "./vector";
export {
  messagesWith,
  peopleUnindexed,
  rewriteWords,
  searchContext,
  unindexed,
  putWords,
  wordsThrough,
  writeWords,
  type Indexed,
  type WordIndex,
} from "./words";
