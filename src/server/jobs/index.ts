export { ParsePool } from "./pool";
export { findJob, jobShapeOf, listJobs, receiveFile, type JobRow } from "./rows";
export { doJob, work } from "./work";
export { indexWords } from "./words";
