export { LOCAL_ACCOUNT, readNarrow, type Checked, type NarrowContext, type Test } from "./check";
export { complete, type Completion, type ValueHint, type Vocabulary } from "./complete";
export { fold } from "./fold";
export { EMPTY_FORM, formOf, writeForm, type NarrowForm } from "./form";
export {
  asksForTasks,
  asksForWords,
  isAnyDue,
  matcher,
  needlesOf,
  ROW_BY_ROW,
  WORD_HEADERS,
  type Predicate,
  type Seekers,
} from "./matches";
export { LONGEST_EXPRESSION, MOST_TERMS, parse, type Parsed } from "./parse";
export { conditionsIn, explain, type Reason } from "./parts";
export { piecesOf, soughtIn, type Piece } from "./sought";
export {
  loadNarrow,
  refTo,
  storeNarrow,
  type IdOf,
  type NameOf,
  type Ref,
  type RefKind,
  type StoredNarrow,
} from "./stored";
export { isTraitState, STATE_TRAITS, SUSPECT, TRAIT, type NarrowRow, type TextField } from "./row";
export {
  FIELDS,
  issueText,
  nearest,
  OPERATORS,
  STATES,
  textOfIssue,
  type Field,
  type Issue,
  type Span,
  type State,
  type Tree,
} from "./tree";
export { writeEquals, writeText } from "./write";
