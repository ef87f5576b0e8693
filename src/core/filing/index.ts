export { asideOffer, type Fate } from "./aside";
export type { Sign } from "./counts";
export { domainOf, featuresOf, KINDS, type FilingMail, type Kind } from "./features";
export { Ranker, type Guess, type Reason, type Receipt, type StoredRanker } from "./ranker";
export { Taught, tellsMuch, type Junkiness, type Lesson, type StoredTaught } from "./taught";
export { percentOf, signText, whyJunk, whyText } from "./words";
