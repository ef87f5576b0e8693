export { faultOf, keepOnUnheard, lineOf, log, Log } from "./log";
export { noteRequest, noteStream, noteWork, watchWaiting } from "./metrics";
export { serveWatch, serveWatchAsAsked } from "./serve";
