import {
  alphaGap,
  changedPixels,
  changeFits,
  depthOrder,
  depthSpan,
  edgesOf,
  matteGap,
  nothingMet,
  oddShare,
  standingShare,
  unexplainedBy,
  windowsOf,
  type ChangeFits,
  type FrameHeader,
  type NoiseBuffers,
  type PassFigures,
  type PassRole,
} from '@mint-tally/core';
import type { FrameReader } from './frame-reader.ts';
import type { FramePlan, PassFile } from './plan.ts';

/** What is held of a pass beside the beauty. */
interface BesideFile extends Pick<PassFigures, 'role' | 'odd' | 'mean' | 'span' | 'nothingMet' | 'alphaGap' | 'windows'> {
  readonly path: string;
  readonly edges: Float32Array | null;
}

/** A frame of the beauty, with the passes beside it. */
export interface BesideBeauty {
  readonly buffers: NoiseBuffers;
  /** Of the beauty: its edges, and those of the passes beside it. */
  readonly edges: Float32Array;
  readonly beside: Readonly<Record<string, BesideFile>>;
  /** Share of the pixels in which its mattes do not sum to the alpha; null without mattes. */
  readonly gap: number | null;
}

/** Passes whose edges are those of the picture; lights and vectors have their own. */
const EDGES_OF: readonly PassRole[] = ['albedo', 'normal', 'depth', 'occlusion'];

/** Reads the passes beside a frame of the beauty. @param header of the beauty's file */
export function readBeside(reader: FrameReader, plan: FramePlan, header: FrameHeader, buffers: NoiseBuffers): Pick<BesideBeauty, 'beside' | 'gap'> {
  const { width, height, alpha } = buffers;
  const mattes: Float32Array[] = [];
  const read = Object.entries(plan.beside).map(([pass, { role, ...file }]) => {
    // The albedo's luminance is there already, and has its edges.
    const known = role === 'albedo' && isSame(file, plan.features.albedo) ? buffers.albedo : null;
    const values = known ? [known] : reader.componentsOf(file, buffers);
    if (role === 'matte' && values !== null) mattes.push(...values);
    return { pass, role, file, values };
  });
  const beside = read.map(({ pass, role, file, values }): [string, BesideFile] => {
    const own = reader.alphaOf(file, buffers);
    const isDepth = role === 'depth' && isSame(file, plan.features.depth);
    return [
      pass,
      {
        role,
        path: file.path,
        odd: values && oddShare(role, values, alpha),
        edges: values && EDGES_OF.includes(role) ? edgesOf(values, width, height) : null,
        mean: role === 'matte' && values !== null ? meanOf(values) : null,
        span: isDepth ? depthSpan(buffers) : null,
        nothingMet: isDepth ? nothingMet(buffers, mattes) : null,
        alphaGap: own && alphaGap(own, buffers),
        windows: { own: windowsOf(reader.headerOf(file) ?? header), beauty: windowsOf(header) },
      },
    ];
  });
  return { beside: Object.fromEntries(beside), gap: matteGap(mattes, alpha) };
}

/** Whether two passes are one: of one file, with the same channels. */
const isSame = (file: PassFile, other: PassFile | null) => file.path === other?.path && String(file.channels) === String(other.channels);

function meanOf(planes: readonly Float32Array[]): number {
  return planes.reduce((sum, plane) => sum + plane.reduce((all, value) => all + value, 0) / plane.length, 0);
}

/** The frames around one; null where there is none. */
export interface FramesAround {
  readonly earlier: BesideBeauty | null;
  readonly before: BesideBeauty | null;
  readonly after: BesideBeauty | null;
}

/** Holds the other passes of a frame against its beauty, against each other, and against the frames around. */
export function compareBeside({ frame, features }: FramePlan, own: BesideBeauty, { earlier, before, after }: FramesAround): PassFigures[] {
  const names = Object.keys(own.beside);
  return Object.entries(own.beside).map(([pass, { path: file, edges, ...told }]): PassFigures => {
    const edgesBefore = before?.beside[pass]?.edges ?? null;
    /** @param of edges of the beauty, or of a pass beside it */
    const fitsTo = (of: (one: BesideBeauty) => Float32Array | null): ChangeFits | null => {
      if (!edges || !edgesBefore || !earlier || !before || !after) return null;
      const [first, second, third, fourth] = [of(earlier), of(before), of(own), of(after)];
      return first && second && third && fourth ? changeFits([edgesBefore, edges], [first, second, third, fourth]) : null;
    };
    const besides = names.slice(names.indexOf(pass) + 1).flatMap((other) => {
      const fits = fitsTo(({ beside }) => beside[other]?.edges ?? null);
      return fits ? [[other, fits] as const] : [];
    });
    const isMotion = told.role === 'motion' && before !== null;
    return {
      ...told,
      pass,
      frame,
      file,
      changes: fitsTo((one) => one.edges),
      besides: Object.fromEntries(besides),
      changed: edges && edgesBefore ? changedPixels([edgesBefore, edges]) : 0,
      unexplained: isMotion ? unexplainedBy(own.buffers, before.buffers) : null,
      turned: isMotion ? unexplainedBy(own.buffers, before.buffers, -1) : null,
      standing: isMotion ? standingShare(own.buffers, before.buffers) : null,
      order: file === features.depth?.path && told.role === 'depth' && before ? depthOrder(own.buffers, before.buffers) : null,
      gap: told.role === 'matte' ? own.gap : null,
    };
  });
}
