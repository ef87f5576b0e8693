export { makePack, type PackedMacro, type PackedRule } from "./make";
export {
  LARGEST_PACK_BYTES,
  PACK_KIND,
  PACK_VERSION,
  packJsonSchema,
  packSchema,
  readPack,
  type Pack,
  type ReadPack,
} from "./shape";
export { takePack, type Choices, type Clash, type Taking } from "./take";
