import { MintError, parseFrameRange, strengths } from '@mint-tally/core';
import { testPlace, TESTS_ROOT } from '@mint-tally/engine';
import * as z from 'zod';
import { sayStrength } from '$lib/denoise/denoise-view';
import type { Opening } from '$lib/view/other-folder';
import { findTest } from './denoising';
import { listOtherSequences } from './other-folder';

const querySchema = z.union([
  z.object({ test: z.coerce.number().int().positive(), strength: z.coerce.number(), ghosts: z.string().optional() }),
  z.object({
    pass: z.string().max(100),
    against: z
      .string()
      .regex(/^pass:./)
      .max(110),
  }),
]);

/** What an address asks the viewer to show at first; null where it asks for nothing, or for what is not there any more. */
export async function openingOf(shotId: number, query: URLSearchParams): Promise<Opening | null> {
  const asked = querySchema.safeParse(Object.fromEntries(query));
  if (!asked.success) return null;
  if ('against' in asked.data) return { ...asked.data, other: null, compareAs: 'split', range: '' };
  const { test, strength, ghosts } = asked.data;
  const run = await findTest(shotId, test);
  if (!run) return null;
  const place = testPlace(test, strength);
  const folder = (ghosts === undefined ? place.pictures : place.ghosts).split('/').slice(1).join('/');
  try {
    const [sequence] = await listOtherSequences(TESTS_ROOT, folder);
    if (!sequence) return null;
    const name = sayStrength(strength, strengths);
    const title = ghosts === undefined ? `denoised, ${name}` : `ghosts kept out, ${name}`;
    const { pass, range } = run.request;
    // A single frame is a still that stands for every frame, and is meant for its own.
    const first = parseFrameRange(range).first!;
    const shown = sequence.isStill ? { ...sequence, first, last: first } : sequence;
    return { pass, against: 'other', other: { root: TESTS_ROOT, folder, sequence: shown, title }, compareAs: ghosts === undefined ? 'split' : 'other', range };
  } catch (thrown) {
    // Old tests are cleared away.
    if (thrown instanceof MintError) return null;
    throw thrown;
  }
}
