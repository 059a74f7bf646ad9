import type { Transport } from '@sveltejs/kit';
import { frameSetSchema, FrameSet } from '@mint-tally/core';

/** How a set of frames travels from the server to a page: in range notation. */
export const transport: Transport = {
  FrameSet: {
    encode: (value) => value instanceof FrameSet && { frames: value.toString() },
    decode: ({ frames }: { frames: string }) => frameSetSchema.parse(frames),
  },
};
