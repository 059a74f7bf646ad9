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
