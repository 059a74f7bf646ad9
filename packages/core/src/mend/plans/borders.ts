import { grainOf, meanOf, notesOf, type Luminance } from '../../assay/index.ts';

/** A frame beside a border. */
export interface BorderFrame {
  readonly frame: number;
  readonly mean: number;
  readonly grain: number;
  readonly notes: ReadonlyMap<string, string>;
}

/** What of a frame is compared with the one beside it. @param luminance null where it has none */
export function borderFrame(frame: number, luminance: Luminance | null, metadata: Readonly<Record<string, string | number>>): BorderFrame {
  const [mean, grain] = luminance ? [meanOf(luminance), grainOf(luminance)] : [0, 0];
  return { frame, mean, grain, notes: notesOf(metadata) };
}

/** A step from frame to frame this small is nothing that anybody sees. */
const LEAST_BRIGHTER = Math.log(1.02);
const LEAST_ROUGHER = Math.log(1.15);
/** A step this many times that of the frames beside it is not theirs. */
const TIMES = 3;
/** What frames may differ in beside each other: who rendered it, and when. */
const DIFFER = new Set(['host', 'timecode']);

/**
 * Says how a frame of a patch differs from the one that it would stand beside: in brightness, in noise, in what it was rendered
 * with.
 *
 * @param inner of the patch
 * @param outer of the shot, beside it
 * @param further the shot's next one behind that, which says how much changes from frame to frame; null where there is none
 */
export function compareAtBorder(inner: BorderFrame, outer: BorderFrame, further: BorderFrame | null): string[] {
  const words: string[] = [];
  const beside = `frame ${outer.frame} beside it`;
  const brighter = step(inner.mean, outer.mean);
  if (Math.abs(brighter) > usual(LEAST_BRIGHTER, further && step(outer.mean, further.mean)))
    words.push(`${percent(brighter)} ${brighter > 0 ? 'brighter' : 'darker'} than ${beside}.`);
  const rougher = step(inner.grain, outer.grain);
  if (Math.abs(rougher) > usual(LEAST_ROUGHER, further && step(outer.grain, further.grain)))
    words.push(`${percent(rougher)} ${rougher > 0 ? 'more' : 'less'} noise than ${beside}.`);
  for (const [kind, value] of inner.notes) {
    const other = outer.notes.get(kind);
    if (other !== undefined && other !== value && !DIFFER.has(kind)) words.push(`Rendered with ${kind} “${value}”, ${beside} with “${other}”.`);
  }
  return words;
}

/** How many times as much, as a logarithm; 0 where either is nothing. */
const step = (a: number, b: number) => (a > 0 && b > 0 ? Math.log(a / b) : 0);
const usual = (least: number, around: number | null) => Math.max(least, TIMES * Math.abs(around ?? 0));
const percent = (times: number) => `${Math.round(Math.abs(Math.exp(times) - 1) * 100)} %`;
