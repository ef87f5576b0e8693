export { exceptFrom, lastingSubject, ofInbox, suggestionsFrom, type Pattern, type Suggestion } from "./conditions";
export { whyAttended } from "./unattended";
export { ruling, type Arrived, type Ruled } from "./ruling";
