import type { EncoderTools } from '../../frame.ts';
import { forEachPiece, type ChunkLayout } from './layout.ts';

const BYTES = { uint: 4, half: 2, float: 3 } as const;

/** Packs a chunk with pxr24 (OpenEXR, ImfPxr24Compressor): see unpackPxr24. Floats lose their lowest byte; null when it would not become smaller. */
export function packPxr24(pixels: Uint8Array, layout: ChunkLayout, tools: EncoderTools): Uint8Array | null {
  const planes = new Uint8Array(layout.channels.reduce((sum, { across, lines, type }) => sum + across * lines * BYTES[type], 0));
  const view = new DataView(pixels.buffer, pixels.byteOffset, pixels.byteLength);
  let to = 0;
  forEachPiece(layout, (c, _line, position) => {
    const { type, across } = layout.channels[c]!;
    const bytes = BYTES[type];
    let before = 0;
    for (let i = 0; i < across; i++) {
      const bits = type === 'half' ? view.getUint16(position + i * 2, true) : view.getUint32(position + i * 4, true);
      const value = type === 'float' ? to24Bits(bits) : bits;
      const difference = value - before;
      before = value;
      for (let b = 0; b < bytes; b++) planes[to + b * across + i] = (difference >>> (8 * (bytes - 1 - b))) & 0xff;
    }
    to += across * bytes;
  });
  const packed = tools.deflate(planes);
  return packed.length < pixels.length ? packed : null;
}

/** A float's sign, exponent and the highest 15 bits of its fraction, rounded. */
function to24Bits(bits: number): number {
  const [sign, exponent, fraction] = [bits & 0x80000000, bits & 0x7f800000, bits & 0x007fffff];
  if (exponent === 0x7f800000) {
    if (fraction === 0) return (sign >>> 8) | (exponent >>> 8);
    // What is no number stays none, whatever its fraction loses.
    const kept = fraction >>> 8;
    return (sign >>> 8) | (exponent >>> 8) | (kept === 0 ? 1 : kept);
  }
  const rounded = ((exponent | fraction) + (fraction & 0x80)) >>> 8;
  // Not up to infinity.
  return (sign >>> 8) | (rounded >= 0x7f8000 ? (exponent | fraction) >>> 8 : rounded);
}
