import type { Order } from '../brief/index.ts';
import { MintError } from '../errors.ts';
import { planMovie, type MoviePicture } from '../movie/index.ts';
import { formatFrameRange, FrameSet, parseFrameRange } from '../ranges/index.ts';
import { formatFrameRate, parseFrameRate } from '../timing/index.ts';
import { MOST_PICTURES, type ContactSheetSettings } from './settings.ts';

/** Raised when a contact sheet cannot be made as it was asked for. */
export class ContactSheetError extends MintError {
  constructor(code: 'sheet' | 'sheet-exists', message: string, remedy: string, subject: string | null = null) {
    super(code, message, { remedy, subject });
  }
}

/** A pass on a contact sheet, with the frames that stand for it. */
export interface SheetSection {
  readonly pass: string;
  readonly passIndex: number;
  readonly pictures: readonly MoviePicture[];
  /** What of the pass is shown, in words. */
  readonly says: string;
}

/** Some of the frames, evenly spread: the first and the last are always among them. */
export function spreadFrames(frames: readonly number[], most: number): number[] {
  if (frames.length <= most) return [...frames];
  if (most === 1) return [frames[0]!];
  return Array.from({ length: most }, (_, i) => frames[Math.round((i * (frames.length - 1)) / (most - 1))]!);
}

/**
 * Works out the pictures of a contact sheet, pass by pass.
 *
 * @param fileOf the file of a frame of a pass, by its place; null where there is none, and a slate stands in
 * @throws ContactSheetError for a pass that is not ordered, and for more pictures than a sheet holds; MovieError where a pass has none of the frames
 */
export function planContactSheet(
  order: Order,
  { passes, range, most }: ContactSheetSettings,
  fileOf: (passIndex: number, frame: number) => string | null,
): SheetSection[] {
  const wanted = range.trim() === '' ? null : parseFrameRange(range);
  const sections = passes.map((name): SheetSection => {
    const passIndex = order.passes.findIndex(({ pass }) => pass.name === name);
    if (passIndex < 0)
      throw new ContactSheetError('sheet', `The brief orders no pass ${name}.`, `It orders ${order.passes.map(({ pass }) => pass.name).join(', ')}.`);
    const { frames } = order.passes[passIndex]!;
    const all = wanted === null ? frames : frames.intersection(wanted);
    const chosen = FrameSet.of(spreadFrames([...all], most));
    const { pictures } = planMovie(order, passIndex, chosen.isEmpty ? wanted : chosen, (frame) => fileOf(passIndex, frame));
    const told = `${formatFrameRange(all)}, ${all.size} ${all.size === 1 ? 'frame' : 'frames'}`;
    return { pass: name, passIndex, pictures, says: pictures.length === all.size ? told : `${told}; ${pictures.length} of them` };
  });
  const count = sections.reduce((sum, { pictures }) => sum + pictures.length, 0);
  if (count > MOST_PICTURES)
    throw new ContactSheetError('sheet', `That is ${count} pictures, and a sheet holds ${MOST_PICTURES}.`, 'Choose fewer of each pass.');
  return sections;
}

/** What stands over a contact sheet: shot and version, then what was ordered. */
export function titleSheet({ brief }: Pick<Order, 'brief'>, note: string): { readonly title: string; readonly subtitle: string } {
  const rate = brief.fps === undefined ? [] : [`${formatFrameRate(parseFrameRate(brief.fps))} frames a second`];
  const size = brief.resolution ? [brief.resolution.join(' x ')] : [];
  return {
    title: [brief.shot, brief.version].filter(Boolean).join(' '),
    subtitle: [`frames ${brief.range}`, ...rate, ...size, ...(note === '' ? [] : [note])].join(', '),
  };
}
