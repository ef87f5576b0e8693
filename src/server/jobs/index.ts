export { remindDue, unpinDue, wakeDue } from "./clock";
export { takeMail } from "./mail";
export { noteSent, sendDue } from "./outbox";
export { ParsePool } from "./pool";
export { beginJob, findJob, jobShapeOf, listJobs, receiveFile, type JobRow } from "./rows";
export { doJob, work } from "./work";
export { clearAway, keep, keepLedger, letGo } from "./keeper";
export { indexWords } from "./words";
export { AccountKeeper } from "./sync";
