export { failedChecks, falseLinks, NO_CLUES, oddFiles, type Clues } from "./clues";
export {
  isOneOff,
  knownDomains,
  likenessOf,
  orgOf,
  shownDomain,
  skeleton,
  type KnownDomains,
  type Likeness,
} from "./domains";
export {
  acquaintanceOf,
  nameKey,
  SIGNS,
  suspicionsOf,
  type Acquaintance,
  type Sender,
  type SignOfDeceit,
  type Suspicion,
} from "./signs";
