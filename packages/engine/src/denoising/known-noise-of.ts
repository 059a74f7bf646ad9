import { conventions, sayConvention, type Brief } from '@mint-tally/core';
import { newestAssay, readAssay, readAssayTiles, type Database, type DenoiseRun } from '@mint-tally/store';
import type { KnownNoise, NoiseOfFrame } from './denoise-folder.ts';

/** What the assay that a run goes by says of its pass; null where there was none, or another has taken its place. */
export async function knownNoiseOf(database: Database, { shotId, request }: DenoiseRun, brief: Brief): Promise<KnownNoise | null> {
  const assay = request.measuredAt === null ? null : await newestAssay(database, shotId);
  if (assay?.at.getTime() !== request.measuredAt) return null;
  const [figures, tiles] = await Promise.all([readAssay(database, shotId), readAssayTiles(database, shotId, { pass: request.pass })]);
  if (!figures) return null;
  const measured = new Map(figures.frames.flatMap((frame) => (frame.pass === request.pass ? [[frame.frame, frame] as const] : [])));
  const said = brief.passes.find(({ role }) => role === 'motion')?.vectors;
  return {
    frames: new Map(
      tiles.map(({ frame, sigmas }): [number, NoiseOfFrame] => [
        frame,
        { tiles: sigmas, noise: measured.get(frame)?.noise ?? null, temporalNoise: measured.get(frame)?.temporalNoise ?? null },
      ]),
    ),
    convention: said ?? conventions.find((one) => sayConvention(one) === figures.vectors?.says) ?? null,
    at: request.measuredAt!,
  };
}
