import { workOutOrder, type Brief } from '../brief/index.ts';
import { MintError } from '../errors.ts';
import { fillCommand } from './tokens.ts';

/** Raised when a brief does not say something that every render needs. */
export class NotRenderableError extends MintError {
  constructor(message: string, subject: string) {
    super('not-renderable', message, { subject, remedy: 'Write it into the brief, and save it.' });
  }
}

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
 * `samples`, `seed`, `version`, and `passes` as JSON in the words of the brief file.
 *
 * @throws NotRenderableError when it has no resolution or no number of samples
 */
export function tokensOfBrief(brief: Brief, overrides: { samples?: number; seed?: number } = {}): Record<string, string> {
  const { frames } = workOutOrder(brief);
  const samples = overrides.samples ?? brief.sampling?.samples;
  if (!brief.resolution) throw new NotRenderableError('The brief has no resolution, so nobody knows how large to render.', 'resolution');
  if (samples === undefined) throw new NotRenderableError('The brief has no number of samples, so nobody knows how long to render.', 'sampling.samples');
  const scale = (brief.scale ?? 100) / 100;
  const [width, height] = brief.resolution.map((side) => Math.max(1, Math.round(side * scale)));
  return {
    shot: brief.shot,
    first: String(frames.first),
    last: String(frames.last),
    width: String(width),
    height: String(height),
    samples: String(samples),
    seed: overrides.seed === undefined ? '' : String(overrides.seed),
    version: brief.version ?? '',
    passes: JSON.stringify(
      brief.passes.map(({ name, role, pattern, channels, depth, compression }) => ({ name, role, pattern, channels, depth, compression })),
    ),
  };
}
