import type { Brief } from '../../brief/index.ts';
import type { FrameHeader } from '../../formats/index.ts';
import type { FindingCollector } from '../findings.ts';
import { commonest, type SeenPass } from './seen-pass.ts';

const ASPECT_TOLERANCE = 0.002;

/**
 * Windows and pixel aspects that differ from those of the pass. A data window that is cut to the
 * picture differs in every frame and is no fault; only where most have the same are others odd.
 */
export function findOddWindows(collector: FindingCollector, pass: SeenPass, brief: Brief): void {
  if (!pass.ownsFiles) return;
  const frames = pass.frames.filter((frame) => !frame.isOdd);
  const oddOnes = (read: (header: FrameHeader) => string | null, what: string, wanted: string | null) => {
    const texts = frames.map(({ header }) => read(header));
    const usual = commonest(texts.filter((text) => text !== null));
    const norm = wanted ?? (usual && usual.count * 2 > texts.length ? usual.value : null);
    if (norm === null) return;
    frames.forEach(({ frame, file }, i) => {
      if (texts[i] === null || texts[i] === norm) return;
      const detail = `${what} ${texts[i]} where ${norm} is ${wanted === null ? 'usual' : 'ordered'}`;
      collector.add('wrong-window', pass.name, { frame, file: file.path, detail });
    });
  };
  oddOnes((header) => windowText(header.displayWindow), 'display window', null);
  oddOnes(relativeDataWindow, 'data window', brief.crop ? windowText(cropWindow(brief.crop)) : null);
  if (brief.pixelAspect !== undefined) return;
  const aspects = frames.map(({ header }) => header.pixelAspect ?? 1);
  const usual = commonest(aspects);
  if (!usual || usual.count * 2 <= aspects.length) return;
  frames.forEach(({ frame, file }, i) => {
    if (Math.abs(aspects[i] - usual.value) <= ASPECT_TOLERANCE) return;
    const detail = `pixel aspect ${shortNumber(aspects[i])} where ${shortNumber(usual.value)} is usual`;
    collector.add('wrong-pixel-aspect', pass.name, { frame, file: file.path, detail });
  });
}

type Window = readonly [number, number, number, number];

function windowText(window: Window | null): string | null {
  return window && `(${window[0]}, ${window[1]}) to (${window[2]}, ${window[3]})`;
}

/** The data window counted from the picture's corner. */
function relativeDataWindow({ dataWindow, displayWindow }: FrameHeader): string | null {
  if (!dataWindow || !displayWindow) return null;
  const [left, top] = displayWindow;
  return windowText([dataWindow[0] - left, dataWindow[1] - top, dataWindow[2] - left, dataWindow[3] - top]);
}

function cropWindow([left, top, width, height]: readonly number[]): Window {
  return [left, top, left + width - 1, top + height - 1];
}

function shortNumber(value: number): string {
  return String(Math.round(value * 1000) / 1000);
}
