export { conditionOf } from "./sql";
export { countMatches, messageJoin, pageOfIds } from "./messages";
