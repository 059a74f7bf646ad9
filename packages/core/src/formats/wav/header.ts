import { ByteReader, type ByteSource } from '../byte-source.ts';
import { FrameFileError } from '../errors.ts';

/**
 * What a sound file says about itself. WAV is read after "Multimedia Programming Interface and
 * Data Specifications 1.0" (IBM and Microsoft 1991); files over 4 GiB after EBU Tech 3306 (RF64).
 */
export interface WavHeader {
  readonly channels: number;
  readonly sampleRate: number;
  readonly bitsPerSample: number;
  /** Bytes of one sample of all channels. */
  readonly blockBytes: number;
  /** Where the samples begin, and how many bytes of them the file claims. */
  readonly dataOffset: number;
  readonly dataBytes: number;
}

const MAXIMUM_CHUNKS = 10_000;
/** A size that an RF64 file leaves to its ds64 chunk. */
const ELSEWHERE = 0xffffffff;

/** Reads a WAV file's header: the format, and where the samples lie. @throws FrameFileError */
export function readWavHeader(source: ByteSource): WavHeader {
  if (source.size === 0) throw new FrameFileError('empty-file', 'The file has no bytes.');
  if (source.size < 12) throw new FrameFileError('truncated', `The file ends after ${source.size} bytes, inside its header.`);
  const top = source.read(0, 12);
  const form = latin(top.subarray(0, 4));
  if ((form !== 'RIFF' && form !== 'RF64') || latin(top.subarray(8, 12)) !== 'WAVE') {
    throw new FrameFileError('wrong-format', 'The file is no WAV sound.');
  }
  let format: Omit<WavHeader, 'dataOffset' | 'dataBytes'> | null = null;
  let longSize: number | null = null;
  let position = 12;
  for (let count = 0; position + 8 <= source.size; count++) {
    if (count > MAXIMUM_CHUNKS) throw new FrameFileError('corrupt', `There are over ${MAXIMUM_CHUNKS} chunks before the samples.`);
    const reader = new ByteReader(source.read(position, 8), { littleEndian: true });
    const id = latin(reader.take(4));
    const size = reader.uint32();
    const body = position + 8;
    if (id === 'fmt ') format = readFormat(source, body, size);
    else if (id === 'ds64' && size >= 16) longSize = chunk(source, body, 16).uint64At(8);
    else if (id === 'data') {
      if (!format) throw new FrameFileError('corrupt', 'The samples come before the format that describes them.');
      return { ...format, dataOffset: body, dataBytes: size === ELSEWHERE && longSize !== null ? longSize : size };
    }
    // Chunks begin at even places (section "RIFF Basics").
    position = body + size + (size % 2);
  }
  throw new FrameFileError('truncated', `The file ends after ${source.size} bytes, before its samples.`);
}

function readFormat(source: ByteSource, offset: number, size: number): Omit<WavHeader, 'dataOffset' | 'dataBytes'> {
  if (size < 16) throw new FrameFileError('corrupt', 'The format chunk is too short.');
  const reader = chunk(source, offset, 16);
  const [channels, sampleRate, blockBytes, bitsPerSample] = [reader.uint16At(2), reader.uint32At(4), reader.uint16At(12), reader.uint16At(14)];
  if (channels < 1 || sampleRate < 1 || sampleRate > 10_000_000 || blockBytes < 1) {
    throw new FrameFileError('corrupt', `The header gives ${channels} channels at ${sampleRate} Hz in blocks of ${blockBytes} bytes, which is no sound.`);
  }
  return { channels, sampleRate, bitsPerSample, blockBytes };
}

function chunk(source: ByteSource, offset: number, length: number) {
  if (offset + length > source.size) throw new FrameFileError('truncated', `The file ends after ${source.size} bytes, inside its header.`);
  const bytes = source.read(offset, length);
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  return {
    uint16At: (at: number) => view.getUint16(at, true),
    uint32At: (at: number) => view.getUint32(at, true),
    uint64At: (at: number) => Number(view.getBigUint64(at, true)),
  };
}

function latin(bytes: Uint8Array): string {
  return String.fromCharCode(...bytes);
}
