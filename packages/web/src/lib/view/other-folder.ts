import * as z from 'zod';

/** What can be looked at in a folder: numbered frames that belong together, or a single picture. */
export const otherSequenceSchema = z.object({
  /** Name pattern, or the path of a single picture. */
  name: z.string(),
  first: z.number().int(),
  last: z.number().int(),
  count: z.number().int(),
  /** One picture that stands for every frame. */
  isStill: z.boolean(),
});
export type OtherSequence = z.output<typeof otherSequenceSchema>;

/** Which frames of another folder stand beside which of the shot. */
export const alignments = ['number', 'first', 'offset'] as const;
export type Alignment = (typeof alignments)[number];

/** A sequence in a folder inside the roots that the shot is compared with. */
export interface OtherFolder {
  readonly root: string;
  readonly folder: string;
  readonly sequence: OtherSequence;
  /** What it is called where its folder would say nothing to anybody. */
  readonly title?: string;
}

/** What a sequence of another folder is called: two versions have files of one name. */
export const sayOther = ({ folder, root, sequence, title }: OtherFolder) => title ?? `${folder || root}: ${sequence.name}`;

/** What the viewer is opened to show: a pass, beside what, at which frames. */
export interface Opening {
  readonly pass: string;
  /** As settings say it: `pass:` and its name, or `other`. */
  readonly against: string;
  readonly other: OtherFolder | null;
  readonly compareAs: 'split' | 'other';
  /** In range notation; empty for all. */
  readonly range: string;
}

/**
 * The frame of another sequence that belongs to one of the shot.
 *
 * @param offset frames that the other one is behind; of `offset` alone
 */
export function alignedFrame(frame: number, shotFirst: number, { sequence }: OtherFolder, align: Alignment, offset: number): number {
  if (sequence.isStill) return sequence.first;
  return align === 'number' ? frame : align === 'first' ? frame - shotFirst + sequence.first : frame + offset;
}
