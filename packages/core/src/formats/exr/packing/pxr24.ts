import { PackedDataError } from '../../errors.ts';
import type { CodecTools } from '../../frame.ts';
import { forEachPiece, type ChunkLayout } from './layout.ts';

/**
 * Undoes pxr24 (OpenEXR, ImfPxr24Compressor): inflate, then for each piece of a line its bytes
 * stand plane by plane, the highest first, as differences from the sample before. Floats have
 * lost their lowest byte.
 */
export function unpackPxr24(packed: Uint8Array, layout: ChunkLayout, tools: CodecTools): Uint8Array {
  const bytesOf = { uint: 4, half: 2, float: 3 };
  const needed = layout.channels.reduce((sum, channel) => sum + channel.across * channel.lines * bytesOf[channel.type], 0);
  const planes = tools.inflate(packed, needed);
  if (planes.length !== needed) throw new PackedDataError(`it gives ${planes.length} bytes where ${needed} are needed`);
  const out = new Uint8Array(layout.size);
  const view = new DataView(out.buffer);
  let from = 0;
  forEachPiece(layout, (c, _line, position) => {
    const { type, across } = layout.channels[c]!;
    let value = 0;
    if (type === 'half') {
      for (let i = 0, to = position; i < across; i++, to += 2) {
        value += (planes[from + i] << 8) | planes[from + across + i];
        out[to] = value;
        out[to + 1] = value >> 8;
      }
    } else {
      for (let i = 0; i < across; i++) {
        const low = type === 'uint' ? planes[from + 3 * across + i] : 0;
        value = (value + ((planes[from + i] << 24) | (planes[from + across + i] << 16) | (planes[from + 2 * across + i] << 8) | low)) | 0;
        view.setInt32(position + i * 4, value, true);
      }
    }
    from += across * bytesOf[type]!;
  });
  return out;
}
