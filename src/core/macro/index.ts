export { checkMacro, type Finding, type Hint, type Repair } from "./check";
export { readSeen, type FolderGuess, type Guess, type NamedMacro, type PlanContext, type SeenGuesses } from "./context";
export { DraftRow, type Facts } from "./facts";
export { amountInText, dateInText, firstNameOf } from "./found";
export { letterPlanText, type Goes, type LetterPlan } from "./letter-plan";
export { detailText, STEP_KINDS, stepFacts, stepsText, stepText, type Family, type StepFacts } from "./kinds";
export { changeList, insertAt, listAt, moveWithin, removeAt, replaceAt, spotOf, type Spot } from "./paths";
export { sourceText } from "./op";
export {
  checkSteps,
  needsOf,
  plan,
  type Plan,
  type PlanMessage,
  type Plannable,
  type Planned,
  type PlannedThing,
  type PlanSkip,
} from "./plan";
export { skipText, textOfProblem, type Answers, type Problem, type Question, type SkipCode } from "./problem";
export { abilitiesOf, macrosReached, MOST_EXPANDED, type Abilities } from "./reach";
export { recordSteps, type Choice, type Done, type Recorded } from "./record";
export { CONFIRM_ABOVE, mustConfirm, settingsSchema, type Focus, type Settings } from "./settings";
export {
  ASK_KINDS,
  DEEPEST,
  goesOf,
  isLetter,
  isTooDeep,
  listName,
  mapSteps,
  MOST_STEPS,
  stepSchema,
  stepsSchema,
  walkSteps,
  type IfStep,
  type Step,
  type StepKind,
} from "./step";
export { loadSettings, loadSteps, namesIn, redirected, storeSettings, storeSteps, withNames } from "./stored";
export { blanksIn, filledIn, fillNow, letterDate, readBlank, templateNamed, type Blank } from "./template";
export type { Template } from "./template-shape";
export {
  isAnswered,
  isAsked,
  isCaptured,
  isGuessed,
  isTaken,
  LONGEST_PATTERN,
  PATTERN_FIELDS,
  TAKEN,
  valueText,
  type Asked,
  type Guessed,
  type Value,
} from "./value";
export type { Needs } from "./values";
