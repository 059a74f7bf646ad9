import { MintError } from '../errors.ts';
import { formatFrameRange, parseFrameRange, type FrameSet } from '../ranges/index.ts';
import { formatNamePattern, parseNamePattern } from '../naming/index.ts';
import { fillNaming } from './naming-tokens.ts';
import type { Brief, BriefPass } from './schema.ts';

const SUFFIX = '_denoised';

/** Under this name a frame's header says how its noise was taken out. */
export const DENOISED_NOTE = 'denoised';
/** And under this one of which original: a checksum of its file's content. */
export const DENOISED_SOURCE = 'denoisedSource';

/** Whether a pass is as it was rendered, and not one without its noise. */
export const isRendered = ({ denoisedFrom }: Pick<BriefPass, 'denoisedFrom'>) => denoisedFrom === undefined;

/** Names of the passes that are denoised from others. */
export const denoisedPasses = ({ passes }: Pick<Brief, 'passes'>): ReadonlySet<string> =>
  new Set(passes.filter((pass) => !isRendered(pass)).map(({ name }) => name));

/** @throws MintError where a pass that is to be rendered is one that no renderer writes */
export function refuseDenoised({ name, denoisedFrom }: Pick<BriefPass, 'name' | 'denoisedFrom'>): void {
  if (denoisedFrom === undefined) return;
  throw new MintError('not-rendered', `The pass ${name} is not rendered: it is denoised from ${denoisedFrom}.`, {
    subject: name,
    remedy: `Denoise ${denoisedFrom} again, or have ${denoisedFrom} rendered.`,
  });
}

/** Where a pass without its noise is: its name, and how its files are named. */
export type DenoisedPlace = Pick<BriefPass, 'name' | 'pattern'>;

/**
 * Where a pass goes without its noise: into a folder of its own, named by the brief's template where the original's files are.
 *
 * @param name of the original
 * @param version how many others of it there are, made in other ways; they keep their names
 */
export function denoisedPlace(brief: Brief, name: string, version = 0): DenoisedPlace {
  const original = brief.passes.find((pass) => pass.name === name)!;
  const suffix = version === 0 ? SUFFIX : `${SUFFIX}_${version + 1}`;
  return { name: name + suffix, pattern: patternBeside(brief, original, suffix) };
}

/** A brief that orders these frames of a pass without its noise, besides those that it orders already. What is ordered of the original is ordered of it. */
export function withDenoised(brief: Brief, pass: string, { name, pattern }: DenoisedPlace, frames: FrameSet): Brief {
  const original = brief.passes.find((one) => one.name === pass);
  if (!original) return brief;
  const all = parseFrameRange(original.range ?? brief.range);
  const there = brief.passes.find((one) => one.name === name);
  const own = frames.intersection(all);
  if (own.isEmpty) return brief;
  const ordered = there ? parseFrameRange(there.range ?? original.range ?? brief.range).union(own) : own;
  const range = all.difference(ordered).isEmpty ? original.range : formatFrameRange(ordered);
  // How it was packed and whether it is watched is another matter.
  const { watch: _, compression: __, ...kept } = original;
  const result = { ...(there ?? { ...kept, name, pattern, denoisedFrom: pass }), range };
  return { ...brief, passes: there ? brief.passes.map((one) => (one === there ? result : one)) : [...brief.passes, result] };
}

/** Where the sibling's files are. */
function patternBeside({ shot, naming, version = '' }: Brief, { name, pattern }: BriefPass, suffix: string): string {
  const named = (pass: string) => {
    try {
      return naming === undefined ? null : fillNaming(naming, { shot, pass, version });
    } catch (thrown) {
      // The brief tells of a template that names nothing where it stands.
      if (thrown instanceof MintError) return null;
      throw thrown;
    }
  };
  const [own, sibling] = [parseNamePattern(pattern), named(name) === pattern ? parseNamePattern(named(name + suffix)!) : null];
  if (sibling && sibling.directory !== own.directory) return formatNamePattern(sibling);
  const [, stem = '', separator = ''] = /^(.*?)([._-]*)$/s.exec(own.prefix)!;
  return formatNamePattern({
    ...own,
    directory: own.directory === '' ? name + suffix : own.directory + suffix,
    // A bare number stays one: its folder tells it apart.
    prefix: sibling ? sibling.prefix : stem === '' ? own.prefix : stem + suffix + separator,
  });
}
