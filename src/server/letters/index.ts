export { beginLetters, foreseeLetters, sealDraft, type NewLetter, type Writer } from "./drafts";
export { identityFor, readIdentities, type Identity } from "./identities";
export { calendarType, mediaType, writeLetter, type Letter, type LetterFile } from "./mime";
export { insertFiles, readDraft, readFiles, updateDraft, type DraftRow } from "./rows";
export { PRACTICE_COUNT, PRACTICE_DOMAIN, PRACTICE_LIST, practiceMail } from "./practice";
