import { workOutOrder, type Brief } from '../brief/index.ts';
import { MintError } from '../errors.ts';
import { fillCommand } from './tokens.ts';

/** Raised when a brief does not say something that every render needs. */
export class NotRenderableError extends MintError {
  constructor(message: string, subject: string) {
    super('not-renderable', message, { subject, remedy: 'Write it into the brief, and save it.' });
  }
}

/** Samples of a frame that its time is to end. */
const MOST_SAMPLES = 100_000;

/**
 * Fills the tokens of a command that are the brief's, and leaves those that the service fills.
 *
 * @throws NotRenderableError, CommandTokenError
 */
export function fillFromBrief(
  command: readonly string[],
  brief: Brief,
  serviceTokens: readonly string[],
  overrides: { samples?: number; seed?: number } = {},
): string[] {
  const tokens = Object.entries(tokensOfBrief(brief, overrides)).filter(([token]) => !serviceTokens.includes(token));
  return fillCommand(command, Object.fromEntries(tokens), serviceTokens);
}

/**
 * What a brief fills into the tokens of a command: `shot`, `first`, `last`, `width`, `height`,
 * `samples`, `seconds` (empty unless frames end by their time), `seed`, `version`, and `passes` as JSON in the words of the brief file.
 *
 * @throws NotRenderableError when it has no resolution, or neither samples nor seconds
 */
export function tokensOfBrief(brief: Brief, overrides: { samples?: number; seed?: number } = {}): Record<string, string> {
  const { frames } = workOutOrder(brief);
  const { samples: ordered, secondsPerFrame } = brief.sampling ?? {};
  // Samples that are stated count; without them a frame ends by its time, or at a number nobody reaches.
  const byTime = overrides.samples === undefined && ordered === undefined ? secondsPerFrame : undefined;
  const samples = overrides.samples ?? ordered ?? (byTime === undefined ? undefined : MOST_SAMPLES);
  if (!brief.resolution) throw new NotRenderableError('The brief has no resolution, so nobody knows how large to render.', 'resolution');
  if (samples === undefined)
    throw new NotRenderableError('The brief has neither samples nor seconds a frame, so nobody knows how long to render.', 'sampling.samples');
  const scale = (brief.scale ?? 100) / 100;
  const [width, height] = brief.resolution.map((side) => Math.max(1, Math.round(side * scale)));
  return {
    shot: brief.shot,
    first: String(frames.first),
    last: String(frames.last),
    width: String(width),
    height: String(height),
    samples: String(samples),
    seconds: byTime === undefined ? '' : String(byTime),
    seed: overrides.seed === undefined ? '' : String(overrides.seed),
    version: brief.version ?? '',
    passes: JSON.stringify(
      brief.passes.map(({ name, role, pattern, channels, depth, compression }) => ({ name, role, pattern, channels, depth, compression })),
    ),
  };
}
