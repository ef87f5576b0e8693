export { guessesFor, type ExplainedGuess } from "./guesses";
export { forget, Learner } from "./learner";
export { epochOf, modelOf } from "./model";
