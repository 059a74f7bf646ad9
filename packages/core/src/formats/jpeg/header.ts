import type { ByteSource } from '../byte-source.ts';
import { FrameFileError } from '../errors.ts';
import type { FrameHeader } from '../frame.ts';
import { isFrameMarker, isRestart, MARKER, readSegment, type Segment } from './markers.ts';

export interface JpegComponent {
  readonly id: number;
  readonly across: number;
  readonly down: number;
  readonly table: number;
}

export interface JpegImage {
  readonly width: number;
  readonly height: number;
  readonly bits: number;
  /** The frame's marker: 0xc0 baseline, 0xc1 extended, 0xc2 progressive; others are not decoded. */
  readonly process: number;
  readonly components: readonly JpegComponent[];
  readonly pixelAspect: number | null;
  /** Adobe's colour transform: 0 none, 1 YCbCr, 2 YCCK; null without its segment. */
  readonly transform: number | null;
  /** Where the frame header stands, and what comes behind it. */
  readonly frameOffset: number;
}

const MAXIMUM_SEGMENTS = 100_000;

/** Walks the segments up to the frame header. @throws FrameFileError */
export function readJpegImage(source: ByteSource): JpegImage {
  let pixelAspect: number | null = null;
  let transform: number | null = null;
  let position = readSegment(source, 0).end;
  for (let count = 0; count < MAXIMUM_SEGMENTS; count++) {
    const segment = readSegment(source, position);
    if (isFrameMarker(segment.marker)) return { ...readFrame(segment), pixelAspect, transform, frameOffset: segment.offset };
    if (segment.marker === MARKER.sos || segment.marker === MARKER.eoi || isRestart(segment.marker) || segment.marker === MARKER.soi) {
      throw new FrameFileError('corrupt', `The picture begins at byte ${segment.offset} without a header.`);
    }
    if (segment.marker === MARKER.lossless) throw new FrameFileError('wrong-format', 'The name says jpeg, the content is jpeg-ls.');
    if (segment.marker === MARKER.app0 && startsWith(segment.data, 'JFIF\0') && segment.data.length >= 12) {
      const { data } = segment;
      const [across, down] = [(data[8] << 8) | data[9], (data[10] << 8) | data[11]];
      // Unit 0 is the aspect itself; otherwise pixels a unit, where more means narrower pixels.
      if (across > 0 && down > 0) pixelAspect = data[7] === 0 ? across / down : down / across;
    }
    if (segment.marker === MARKER.app14 && startsWith(segment.data, 'Adobe') && segment.data.length >= 12) transform = segment.data[11];
    position = segment.end;
  }
  throw new FrameFileError('corrupt', `There are more than ${MAXIMUM_SEGMENTS} segments before the picture.`);
}

function startsWith(data: Uint8Array, text: string): boolean {
  return [...text].every((letter, i) => data[i] === letter.charCodeAt(0));
}

function readFrame({ marker, data }: Segment): Pick<JpegImage, 'width' | 'height' | 'bits' | 'process' | 'components'> {
  const broken = (why: string) => new FrameFileError('corrupt', `The frame header is impossible: ${why}.`);
  if (data.length < 6) throw broken(`it has ${data.length} bytes`);
  const [bits, height, width, count] = [data[0]!, (data[1]! << 8) | data[2]!, (data[3]! << 8) | data[4]!, data[5]!];
  if (data.length !== 6 + count * 3 || count < 1 || count > 4) throw broken(`it lists ${count} components`);
  if (width === 0 || height === 0) throw broken(`its size is ${width} x ${height}`);
  if (bits !== 8 && bits !== 12 && marker < 0xc3) throw broken(`it gives ${bits} bits a sample`);
  const components = Array.from({ length: count }, (_, i): JpegComponent => {
    const at = 6 + i * 3;
    return { id: data[at]!, across: data[at + 1]! >> 4, down: data[at + 1]! & 15, table: data[at + 2]! };
  });
  if (components.some(({ across, down, table }) => across < 1 || across > 4 || down < 1 || down > 4 || table > 3)) throw broken('a component is out of bounds');
  return { width, height, bits, process: marker, components };
}

/** The header in the words that all formats share. */
export function jpegFrameHeader(image: JpegImage): FrameHeader {
  const names = { 1: ['Y'], 2: ['Y', 'A'], 3: ['R', 'G', 'B'], 4: ['C', 'M', 'Y', 'K'] }[image.components.length] ?? [];
  const depth = image.bits === 12 ? '12' : '8';
  return {
    format: 'jpeg',
    width: image.width,
    height: image.height,
    pixelAspect: image.pixelAspect,
    channels: names.map((name) => ({ name, depth })),
    namedChannels: false,
    compression: 'jpeg',
    dataWindow: null,
    displayWindow: null,
    metadata: {},
  };
}
