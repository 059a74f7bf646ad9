/** One channel's share of a chunk. */
export interface ChunkChannel {
  readonly name: string;
  readonly type: 'uint' | 'half' | 'float';
  /** The channel list's flag of the same name: values are perceived in proportion to themselves. */
  readonly perceptuallyLinear: boolean;
  readonly xSampling: number;
  readonly ySampling: number;
  /** Samples in a line of the chunk, and lines that hold any. */
  readonly across: number;
  readonly lines: number;
  readonly sampleBytes: number;
}

/** How a chunk's pixels lie once unpacked: line by line, in a line channel by channel. */
export interface ChunkLayout {
  readonly channels: readonly ChunkChannel[];
  readonly top: number;
  readonly height: number;
  /** Bytes of all of it. */
  readonly size: number;
}

/** Walks the pieces of a chunk in their order: each channel's samples of each line. */
export function forEachPiece(layout: ChunkLayout, visit: (channel: number, line: number, position: number, length: number) => void): void {
  const lineOf = new Int32Array(layout.channels.length);
  let position = 0;
  for (let y = layout.top; y < layout.top + layout.height; y++) {
    for (let c = 0; c < layout.channels.length; c++) {
      const channel = layout.channels[c]!;
      if (channel.ySampling !== 1 && y % channel.ySampling !== 0) continue;
      const length = channel.across * channel.sampleBytes;
      visit(c, lineOf[c]++, position, length);
      position += length;
    }
  }
}

/** Puts channels that were packed one behind the other into the order of a chunk's pixels. */
export function interleave(layout: ChunkLayout, planes: readonly Uint8Array[]): Uint8Array {
  const out = new Uint8Array(layout.size);
  forEachPiece(layout, (channel, line, position, length) => {
    out.set(planes[channel]!.subarray(line * length, (line + 1) * length), position);
  });
  return out;
}
