import { median, sayMeasured, type KeptFrame } from '@mint-tally/core';
import type { RegionFrames } from './tiles';

/** What can be drawn over the frames. */
export const figures = [
  { key: 'noise', title: 'noise', says: 'Sampling error of luminance' },
  { key: 'temporalNoise', title: 'noise in time', says: 'What crawls from frame to frame once the motion is taken out' },
  { key: 'relativeNoise', title: 'relative', says: 'Noise over the brightness that it is in' },
  { key: 'meanLuminance', title: 'luminance', says: 'Mean light of the picture' },
  { key: 'fireflies', title: 'fireflies', says: 'Single pixels far brighter than all around them' },
  { key: 'samples', title: 'samples', says: 'Samples a pixel, as the files note them' },
  { key: 'seconds', title: 'render time', says: 'Seconds that a frame took, as the files note them' },
  { key: 'bytes', title: 'file size', says: 'Bytes of the file' },
] as const;
export type FigureKey = (typeof figures)[number]['key'];

export const titleOf = (key: FigureKey) => figures.find((figure) => figure.key === key)!.title;

/** Figures as people read them: three digits that say something. */
export const sayFigure = (value: number | null) => (value === null ? '\u2013' : Number.isInteger(value) ? String(value) : value.toPrecision(3));

const OF_REGIONS: readonly FigureKey[] = ['noise', 'relativeNoise', 'temporalNoise', 'meanLuminance', 'fireflies'];
/** Whether a figure is known of a part of the picture; the others are of the whole file. */
export const isOfRegions = (key: FigureKey) => OF_REGIONS.includes(key);

/** A frame's figures, of the picture or a part of it: of one whose places were not kept the fireflies of a part are not known. */
export type ShownFrame = Omit<KeptFrame, 'fireflies'> & { readonly fireflies: number | null };

/** Whether the noise in time of a frame is known everywhere: without neighbours along vectors it is that of what stands still. */
const isFollowed = ({ by }: KeptFrame) => by === 'halves' || by === 'neighbours';

/** The frames with the figures of a region in place of those of the whole picture; where there was no noise in time there is none in a part. */
export function inRegion(frames: readonly KeptFrame[], region: RegionFrames): ShownFrame[] {
  const found = new Map(region.map((one) => [`${one.frame} ${one.pass}`, one]));
  return frames.map((frame) => {
    const part = found.get(`${frame.frame} ${frame.pass}`);
    if (!part) return { ...frame, noise: null, relativeNoise: null, temporalNoise: null, meanLuminance: null, fireflies: null };
    const { noise, relativeNoise, temporalNoise, meanLuminance, fireflies } = part;
    return {
      ...frame,
      noise,
      relativeNoise,
      meanLuminance,
      fireflies,
      temporalNoise: frame.temporalNoise === null || !isFollowed(frame) ? null : temporalNoise,
    };
  });
}

/** What a pass comes to along the shot. */
export interface PassSummary {
  readonly pass: string;
  readonly frames: number;
  /** In the middle, and the largest with its frame; null where nothing could be measured. */
  readonly usual: number | null;
  readonly worst: ShownFrame | null;
  /** How it was measured, for most of the frames. */
  readonly by: string;
}

/** Sums up a figure for each pass. */
export function summarise(frames: readonly ShownFrame[], key: FigureKey): PassSummary[] {
  return [...new Set(frames.map(({ pass }) => pass))].map((pass) => {
    const own = frames.filter((frame) => frame.pass === pass);
    const told = own.filter((frame) => frame[key] !== null);
    return {
      pass,
      frames: own.length,
      usual: told.length === 0 ? null : median(told.map((frame) => frame[key]!)),
      worst: told.length === 0 ? null : told.reduce((most, frame) => (frame[key]! > most[key]! ? frame : most)),
      by: sayMeasured(own),
    };
  });
}
