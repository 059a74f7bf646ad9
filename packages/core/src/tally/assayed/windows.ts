import type { PassFigures, PassWindows } from '../../assay/index.ts';
import type { PassRole } from '../../brief/index.ts';
import type { FindingCollector } from '../findings.ts';

/** Passes that show something wherever the beauty does: a light, a matte may end sooner. */
const ALL_OF_IT: readonly PassRole[] = ['half', 'albedo', 'normal', 'depth', 'motion'];
/** Windows that are cut to what is seen are alike by chance in fewer frames. */
const FEWEST = 3;

/** A pass whose size or windows are usually not those of the beauty; single frames that have others are told by the count. */
export function findOtherWindows(collector: FindingCollector, frames: readonly PassFigures[]): void {
  const tell = (of: keyof PassWindows, what: string): boolean => {
    const [own, beauty] = [usual(frames.map(({ windows }) => windows.own[of])), usual(frames.map(({ windows }) => windows.beauty[of]))];
    if (own === null || beauty === null || own === beauty) return false;
    for (const { pass, frame, file, windows } of frames)
      if (windows.own[of] === own && windows.beauty[of] === beauty)
        collector.add('window-mismatch', pass, { frame, file, detail: `${what} ${own} where the beauty has ${beauty}` });
    return true;
  };
  if (tell('size', 'size') || tell('display', 'display window')) return;
  if (frames[0] && ALL_OF_IT.includes(frames[0].role)) tell('data', 'data window');
}

/** What most frames have; null where each has its own, and where few are there to tell. */
function usual(texts: readonly (string | null)[]): string | null {
  if (texts.length < FEWEST) return null;
  return texts.find((text) => text !== null && 2 * texts.filter((other) => other === text).length > texts.length) ?? null;
}
