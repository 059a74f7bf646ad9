export { checkWav, readWavHeader, type WavHeader, type WavSound } from './wav/index.ts';
export { cropFrame } from './crop-frame.ts';
export { inReadingOrder, isAlphaName } from './channels.ts';
export { sampleDepths, storedDepths, type SampleDepth, type StoredDepth } from './depths.ts';
export type { FrameKind, Holds, Packing } from './kind.ts';
export { frameKindOf, frameKinds, isSamePacking } from './kinds.ts';
export { frameFormats } from './table.ts';
export { memorySource, type ByteSource } from './byte-source.ts';
export { FrameFileError, NotDecodedError, PackedDataError, SourceError, type SoundnessCode } from './errors.ts';
export {
  addHalves,
  encodeExr,
  encodeExrParts,
  floatOfHalf,
  floatToHalf,
  halfToFloat,
  NotRewrittenError,
  rewriteExr,
  isStorageAttribute,
  otherShapeOf,
  readStringVector,
  stringVector,
  readExrAttributes,
  type ExrAttribute,
  type ExrChannelData,
  type ExrPicture,
} from './exr/index.ts';
export type {
  ChannelInfo,
  CodecTools,
  Decoded,
  DecodedFrame,
  EncoderTools,
  FrameFormat,
  FrameHeader,
  OpenFrame,
  PixelWindow,
  PlainPixels,
  Plane,
  PlaneType,
  Salvaged,
  SalvageTools,
  StructureReport,
} from './frame.ts';
export { encodePng, type PngPicture } from './png/index.ts';
export type { InterleavedPicture } from './interleaved.ts';
export { encodeDpx, type DpxTransfer } from './dpx/encode.ts';
export { encodeTga } from './tga/encode.ts';
export { encodeTiff } from './tiff/encode.ts';
export { formatByExtension, isFrameExtension, isPictureExtension, kindByContent, kindByExtension } from './signatures.ts';
