export { guessesFor, type ExplainedGuess } from "./guesses";
export { forget, Learner } from "./learner";
export { readFilingMails } from "./mails";
export { modelOf } from "./model";
