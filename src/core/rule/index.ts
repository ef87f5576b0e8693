export { exceptFrom, lastingSubject, ofInbox, suggestionsFrom, type Pattern, type Suggestion } from "./conditions";
export { RULE_TIMES, whyAttended, type RuleTime } from "./unattended";
export { LONGEST_REMARK } from "./remark";
export { ruling, type Arrived, type Ruled } from "./ruling";
export { allOf, arrivedIn, joinMonths, VERDICTS, verdictOf, type Month, type Shares, type Verdict } from "./past";
export { reaches, type Reach } from "./sending";
export { looksFor, type Leaving, type LookRule } from "./look";
export {
  foundMacros,
  foundRules,
  LEAST_MESSAGES,
  patternsOf,
  sequenceKey,
  sequencesEnding,
  type FoundMacro,
  type FoundRule,
  type Habit,
  type Handled,
  type Sequence,
} from "./habits";
