export { readCards, type LeftCard } from "./read";
export { writeCards } from "./write";
export type { Card, CardGroup } from "./card";
