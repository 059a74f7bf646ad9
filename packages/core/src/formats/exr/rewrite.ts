import { MintError } from '../../errors.ts';
import { roundToHalves } from '../../kernels/index.ts';
import type { ByteSource } from '../byte-source.ts';
import type { DecodedFrame, EncoderTools } from '../frame.ts';
import { encodeExr, type ExrChannelData, type ExrPicture } from './encode.ts';
import { keptAttributes } from './kept-attributes.ts';
import { readExrHeader, type ExrPart } from './header.ts';

/** Raised when a file is of a kind that is not written anew. */
export class NotRewrittenError extends MintError {
  constructor(why: string) {
    super('not-rewritten', why, { remedy: 'Render it as an EXR of one part, with channels of one size.' });
  }
}

/**
 * A file as it is, with other values in some of its channels: same windows (the data window of a part, where the frame is one), types of channels and header. What is packed with
 * loss, or in a way that is not written, is packed as zip.
 *
 * @param frame what was decoded of the file
 * @param changed values by channel
 * @param notes texts that are added to the header
 * @throws NotRewrittenError for other formats, several parts, deep pixels, and channels of other sizes
 */
export function rewriteExr(
  source: ByteSource,
  frame: DecodedFrame,
  changed: ReadonlyMap<string, Float32Array>,
  notes: Readonly<Record<string, string>>,
  tools: EncoderTools,
): Uint8Array {
  if (frame.header.format !== 'exr') throw new NotRewrittenError(`The file is ${frame.header.format.toUpperCase()}.`);
  const { parts } = readExrHeader(source);
  const part = parts[0]!;
  if (parts.length > 1) throw new NotRewrittenError('The file has several parts.');
  if (part.deep) throw new NotRewrittenError('The file holds deep pixels.');
  if (part.channels.some(({ xSampling, ySampling }) => xSampling !== 1 || ySampling !== 1))
    throw new NotRewrittenError('Some channels of the file have fewer pixels.');
  const channels = part.channels.map(({ name, type }): ExrChannelData => {
    const values = changed.get(name);
    if (!values) return { name, type, data: planeOf(frame, name) };
    return { name, type, data: type === 'half' ? roundToHalves(values) : type === 'uint' ? Uint32Array.from(values) : values };
  });
  return encodeExr(
    {
      dataWindow: frame.header.dataWindow ?? part.dataWindow,
      displayWindow: part.displayWindow,
      pixelAspect: part.pixelAspect,
      compression: writtenAs(part),
      channels,
      metadata: notes,
      kept: keptAttributes(part),
    },
    tools,
  );
}

function writtenAs({ compression }: ExrPart): ExrPicture['compression'] {
  return compression === 'none' || compression === 'rle' || compression === 'zips' ? compression : 'zip';
}

function planeOf(frame: DecodedFrame, name: string): ExrChannelData['data'] {
  const { data, offset, stride, width, height } = frame.planes.find(({ channel }) => channel === name)!;
  const all = data as ExrChannelData['data'];
  if (stride === 1) return all.subarray(offset, offset + width * height);
  const out = new (all.constructor as new (length: number) => ExrChannelData['data'])(width * height);
  for (let i = 0; i < out.length; i++) out[i] = all[offset + i * stride]!;
  return out;
}
