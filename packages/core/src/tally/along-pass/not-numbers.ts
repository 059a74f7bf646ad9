import { inReadingOrder } from '../../formats/index.ts';
import type { FindingCollector } from '../findings.ts';
import type { SeenPass } from './seen-pass.ts';

/** In these an infinite value is a fault; in a depth it is what lies behind everything. */
const COLOURS: ReadonlySet<string> = new Set(['beauty', 'light', 'half', 'albedo', 'occlusion', 'matte']);

/** Pixels that hold no number: one of them spreads over the picture with the first blur. */
export function findNotNumbers(collector: FindingCollector, pass: SeenPass): void {
  for (const { frame, file, channels } of pass.frames) {
    if (channels.every(({ nan, infinite }) => nan === 0 && infinite === 0)) continue;
    const order = inReadingOrder(channels.map(({ name }) => name));
    const counted = [...channels]
      .sort((a, b) => order.indexOf(a.name) - order.indexOf(b.name))
      .map(({ name, nan, infinite }) => ({ name, nan, infinite: COLOURS.has(pass.role) ? infinite : 0 }))
      .filter(({ nan, infinite }) => nan + infinite > 0);
    if (counted.length === 0) continue;
    const parts = counted.map(({ name, nan, infinite }) => {
      const kinds = [nan > 0 ? `${nan} not a number` : '', infinite > 0 ? `${infinite} infinite` : ''].filter(Boolean);
      return `${name}: ${kinds.join(', ')}`;
    });
    collector.add('nan-pixels', pass.name, { frame, file: file.path, evidence: `Pixels by channel: ${parts.join('; ')}.` });
  }
}
