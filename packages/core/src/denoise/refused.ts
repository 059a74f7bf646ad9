import { isRendered, type BriefPass, type PassRole } from '../brief/index.ts';
import { MintError } from '../errors.ts';

/** Why passes that hold data are not filtered. */
const WHY: Partial<Record<PassRole, string>> = {
  half: 'it is one of two halves, which tell the noise of the beauty',
  albedo: 'it tells the filter what the surfaces are',
  normal: 'means of normals are no normals',
  depth: 'means of distances lie where nothing is',
  motion: 'means of vectors lead nowhere',
  occlusion: 'it holds data that are compared, not looked at',
  matte: 'means of mattes leave their edges',
  id: 'means of ids are other ids',
};

/** Raised when a pass is asked for that must stay as it is. */
export class NotForDenoisingError extends MintError {
  constructor(pass: string, why: string) {
    super('not-for-denoising', `The pass ${pass} is not denoised: ${why}.`, { subject: pass, remedy: 'Name a pass of role beauty or light.' });
  }
}

/** @throws NotForDenoisingError where a pass must stay as it is */
export function refuseData(pass: Pick<BriefPass, 'name' | 'role' | 'denoisedFrom'>): void {
  const { name, role } = pass;
  if (!isRendered(pass)) throw new NotForDenoisingError(name, 'it has been denoised already');
  if (role === 'beauty' || role === 'light') return;
  throw new NotForDenoisingError(name, (role && WHY[role]) ?? 'the brief does not say that it holds light');
}

/** Whether a pass holds light as it was rendered. */
export const isForDenoising = (pass: Pick<BriefPass, 'role' | 'denoisedFrom'>) => isRendered(pass) && (pass.role === 'beauty' || pass.role === 'light');

/**
 * The lights that can go along with a pass: what it is put together from.
 *
 * @returns none of a pass that is no beauty
 */
export function lightsBeside(passes: readonly BriefPass[], { name, role }: Pick<BriefPass, 'name' | 'role'>): BriefPass[] {
  return role === 'beauty' ? passes.filter((pass) => pass.name !== name && pass.role === 'light' && isRendered(pass)) : [];
}

/** @throws MintError where one of some lights cannot go along with a pass */
export function refuseOthersBeside(passes: readonly BriefPass[], pass: Pick<BriefPass, 'name' | 'role'>, lights: readonly string[]): void {
  const possible = lightsBeside(passes, pass).map(({ name }) => name);
  const odd = lights.find((light) => !possible.includes(light));
  if (odd === undefined) return;
  throw new MintError('not-for-denoising', `The pass ${odd} cannot go along with ${pass.name}.`, {
    subject: odd,
    remedy: possible.length > 0 ? `These can: ${possible.join(', ')}.` : 'Lights go along with a beauty, as it was rendered.',
  });
}
