import type { FrameHeader } from '../formats/index.ts';

/** How large the picture of a file is, and where it lies, in words; null where its format has no windows. */
export interface PassWindows {
  readonly size: string;
  readonly display: string | null;
  /** Counted from the corner of the display window. */
  readonly data: string | null;
}

/** Says where the picture of a file lies. */
export function windowsOf({ width, height, displayWindow, dataWindow }: FrameHeader): PassWindows {
  return {
    size: `${width} x ${height}`,
    display: displayWindow && say(displayWindow),
    data: displayWindow && dataWindow && say(dataWindow.map((side, i) => side - displayWindow[i % 2]!)),
  };
}

const say = ([left, top, right, bottom]: readonly number[]) => `(${left}, ${top}) to (${right}, ${bottom})`;
