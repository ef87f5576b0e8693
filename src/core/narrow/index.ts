export { readNarrow, type Checked, type NarrowContext, type Test } from "./check";
export { fold } from "./fold";
export { matcher } from "./matches";
export { LONGEST_EXPRESSION, parse, type Parsed } from "./parse";
export { TRAIT, type NarrowRow, type TextField } from "./row";
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
export { writeEquals } from "./write";
