export { changeBatch, createBatch, deleteBatch, listBatches } from "./batches";
export { blockSender, blockSenders, listBlocked, unblockSender } from "./blocked";
export { begin, type Beginning } from "./begin";
export { MOST_INDEX_ROWS, readIndex, readIndexSince } from "./columns";
export { whichProgram, whoIsAsking, type Asking, type Context } from "./context";
export { beginCodes, beginPasskey, confirmCodes, dropPasskey, endCodes, keepPasskey, renewPaper } from "./factors";
export {
  askPasskey,
  beginFirst,
  beginInvited,
  changePassword,
  endOtherSessions,
  endSession,
  inviteFirst,
  invitePerson,
  readSignedIn,
  readSignIn,
  signIn,
  signInByLink,
  signInByPasskey,
  type From,
} from "./sign-in";
export { checkProved, mustProve, prove } from "./prove";
export { endToken, listTokens, makeToken } from "./tokens";
export { LONGEST_DAYS, type Site } from "../sign-in";
export { Refusal } from "../run";
export { changeDeck, createDeck, deleteDeck, listDecks } from "./decks";
export { giveTime, offerTimes, proposeFit, readAgenda, writeFit } from "./agenda";
export { changeEvent, createEvent, deleteEvent, eventsIn } from "./calendar-events";
export {
  changeCalendar,
  createCalendar,
  deleteCalendar,
  listCalendars,
  shareCalendar,
  unshareCalendar,
} from "./calendars";
export { answerInvitation, invite, tellPeople, readInvitation } from "./invitations";
export { exportIcs, exportTasks, importIcs, MOST_ICS_BYTES, sharedIcs } from "./ics";
export { eventsFor, untold, type Event } from "./events";
export { exportMessages } from "./export";
export { readHome } from "./home";
export { importFile, readJob, readJobs } from "./imports";
export { processDatabase } from "./process";
export { keepOnUnheard, log, noteRequest, noteStream, serveWatchAsAsked } from "../watch";
export { readiness, takesNothing } from "../db";
export { readEntry, readLedger } from "./ledger";
export { changeMacro, createMacro, deleteMacro, listMacros } from "./macros";
export { listMessages, MOST_ROWS, readAttachment, readMessage, readRaw, readTest } from "./messages";
export { createFolder, listFolders, changeFolder } from "./folders";
export { changeLabel, createLabel, listLabels } from "./labels";
export { changeMarker, createMarker, deleteMarker, listMarkers } from "./markers";
export { removeFolder, removeLabel } from "./remove";
export { listNarrowings, noteNarrowing } from "./narrowings";
export { exportFiling, readFiling, readGuesses, resetFiling } from "./filing";
export { dryRun } from "./dry";
export { exportPack, importPack } from "./packs";
export { runMacro, takeBack } from "./runs";
export { leaveSenders } from "./leave";
export { standAside } from "./aside";
export { exportSieve, importSieve } from "./sieve";
export { changeRule, createRule, deleteRule, exceptSenders, listRules } from "./rules";
export { listSenders } from "./senders";
export { readPace, readPaceMacros, readPaceSenders, type PaceQuery } from "./pace";
export { readReview } from "./pace-review";
export { paceCsv } from "./pace-tables";
export { bringMail, changeSimulator, readSimulator } from "./simulator";
export { beginPractice, endPractice } from "./practice";
export { changeSettings, readSettings } from "./settings";
export { changeTask, createTask, deleteTask, listTasks, openTasksOf } from "./tasks";
export { wordsWith } from "./words";
export { readBetween } from "./between";
export { exportCards, importCards, MOST_CARD_BYTES } from "./cards";
export {
  changeContact,
  changeGroup,
  createContact,
  createGroup,
  deleteContact,
  deleteGroup,
  listContacts,
  listCorrespondents,
  listGroups,
} from "./contacts";
export {
  addDraftFile,
  addDraftMessage,
  changeDraft,
  createDraft,
  listDrafts,
  MOST_FILE_BYTES,
  readDraftFile,
  readDraftOf,
  removeDraftFile,
  sendDraft,
  throwDraftAway,
} from "./drafts";
export { changeIdentity, createIdentity, deleteIdentity, listIdentities } from "./identities";
export { changeOutgoing, listOutgoing } from "./outgoing";
export { changeTemplate, createTemplate, deleteTemplate, listTemplates } from "./templates";
export { exportAll } from "./archive";
export { changePass, createPass, deletePass, listPasses, readPass } from "./passes";
export {
  changeAccount,
  createAccount,
  deleteAccount,
  findServers,
  listAccounts,
  listTroubles,
  lookNow,
  tryRefused,
} from "./accounts";
export { listRemoteFolders, testAccount } from "./try-servers";
export { tryOnPast } from "./trial";
export { changeHours, createHours, deleteHours, letIn, listHours } from "./hours";
export { changeList, readList } from "./lists";
export { decline, listFound } from "./found";
