export {
  chordName,
  codeName,
  isModifier,
  LONGEST_SEQUENCE,
  readChord,
  readSequence,
  writeChord,
  writeSequence,
  type Chord,
  type Sequence,
} from "./chord";
export {
  bindPad,
  clearPad,
  DECKS,
  isDeckNumber,
  isPadCode,
  LAYERS,
  PAD_CODES,
  padKeys,
  swapPads,
  type Deck,
  type DeckNumber,
  type Layer,
  type Pad,
  type PadCode,
} from "./deck";
export { FRAME_ACTIONS, FRAME_KEYS, type FrameAction } from "./frame";
export {
  bindingsOf,
  browserKeeps,
  clashesWith,
  conflictsAmong,
  type Binding,
  type Command,
  type Conflict,
} from "./bindings";
export {
  IDLE,
  keyTable,
  matchKey,
  PEEK_AFTER_MS,
  SEQUENCE_WAIT_MS,
  type KeyInput,
  type KeyState,
  type KeyTable,
  type Outcome,
} from "./matcher";
