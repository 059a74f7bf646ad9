export { checkWav, readWavHeader, type WavHeader, type WavSound } from './wav/index.ts';
export { inReadingOrder } from './channels.ts';
export { frameFormats } from './table.ts';
export { memorySource, type ByteSource } from './byte-source.ts';
export { FrameFileError, NotDecodedError, SourceError, type SoundnessCode } from './errors.ts';
export { encodeExr, floatToHalf, halfToFloat, type ExrChannelData, type ExrPicture } from './exr/index.ts';
export type {
  ChannelInfo,
  CodecTools,
  DecodedFrame,
  EncoderTools,
  FrameFormat,
  FrameHeader,
  PixelWindow,
  PlainPixels,
  Plane,
  PlaneType,
  StructureReport,
} from './frame.ts';
export { encodePng, type PngPicture } from './png/index.ts';
export { formatByExtension, isFrameExtension, isPictureExtension, kindByContent, kindByExtension } from './signatures.ts';
