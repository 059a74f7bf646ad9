import { MintError } from '../errors.ts';
import { formatNamePattern, parseNamePattern } from '../naming/index.ts';
import { fillNaming } from './naming-tokens.ts';
import type { Brief, BriefPass } from './schema.ts';

const SUFFIX = '_denoised';

/** Whether a pass is as it was rendered, and not one without its noise. */
export const isRendered = ({ denoisedFrom }: Pick<BriefPass, 'denoisedFrom'>) => denoisedFrom === undefined;

/**
 * The pass that a pass becomes without its noise: what is ordered of it is ordered of this one, and its files lie in a folder of
 * their own, named by the brief's template where the original's are.
 *
 * @param name of the original
 * @param version how many other such passes of it there are; they keep their names
 */
export function denoisedPass(brief: Brief, name: string, version = 0): BriefPass {
  const original = brief.passes.find((pass) => pass.name === name)!;
  const suffix = version === 0 ? SUFFIX : `${SUFFIX}_${version + 1}`;
  const { watch: _, compression: __, ...kept } = original;
  return { ...kept, name: name + suffix, pattern: patternBeside(brief, original, suffix), denoisedFrom: name };
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
    prefix: sibling ? sibling.prefix : stem + suffix + separator,
  });
}
