export { STEP_KINDS, stepFacts, stepText, stepsText, valueText, type Family, type StepFacts } from "./kinds";
export { checkSteps, plan, type Plan, type PlanMessage, type Planned, type PlannedCopy, type PlanSkip } from "./plan";
export { renameInSteps, type Renaming } from "./rename";
export { textOfProblem, type Answers, type PlanContext, type Problem, type Question } from "./resolve";
export { isAsked, MOST_STEPS, stepSchema, stepsSchema, type Asked, type Step, type StepKind, type Value } from "./step";
