export {
  domainOf,
  eachOnce,
  isAddress,
  muchLike,
  needsUtf8,
  readCorrespondents,
  writeCorrespondent,
  type Correspondent,
} from "./address";
export {
  docAbove,
  docOfText,
  docSchema,
  EMPTY_DOC,
  isBlank,
  isRich,
  LINK,
  mapTexts,
  picturesOf,
  quotesOf,
  textsOf,
  type Block,
  type Doc,
  type Inline,
  type Mark,
  type Quoted,
} from "./doc";
export { mistakesIn, type Field, type Mending, type Mistake } from "./mistakes";
export { introOf, LETTER_KINDS, recipientsOf, subjectOf, threadingOf, type LetterKind, type Original } from "./reply";
export { escapeHtml, flowedOf, htmlOf, plainOf } from "./write";
