export { checkScript, extensionsOf, givenTo, type Given } from "./known";
export { LONGEST_SCRIPT, parseScript, type Parsed } from "./parse";
export { printScript } from "./print";
export {
  block,
  command,
  NOWHERE,
  number,
  otherwise,
  placeIn,
  tag,
  test,
  textOfProblem,
  texts,
  when,
  type Argument,
  type Block,
  type Command,
  type Problem,
  type Span,
  type Test,
} from "./script";
