import type { PassRole } from '../brief/index.ts';
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

/** @throws NotForDenoisingError where a pass of this role must stay as it is */
export function refuseData(pass: string, role: PassRole | undefined): void {
  if (role === 'beauty' || role === 'light') return;
  throw new NotForDenoisingError(pass, (role && WHY[role]) ?? 'the brief does not say that it holds light');
}
