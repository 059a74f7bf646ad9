import { denoisedPlace, lightsBeside, type Brief, type BriefPass, type DenoisedPlace, type DenoiseRequest } from '@mint-tally/core';
import type { DenoiseRun } from '@mint-tally/store';
import { wayOf } from '$lib/denoise/denoise-view';

/** What a range makes of a pass, and in which way. */
export interface MadePass extends DenoisedPlace {
  readonly pass: string;
  readonly way: string;
}

/** What ranges make, the newest first. */
export function madeBy(ranges: readonly DenoiseRun[]): MadePass[] {
  return ranges.flatMap(({ request: { pass, strengths, frames, target, lights } }) => {
    const inside = lights.filter((light) => light.target.pattern === target!.pattern).map((light) => light.pass);
    const along = lights.map((light) => ({ pass: light.pass, way: wayBy(pass, strengths[0]!, frames), ...light.target }));
    return [{ pass, way: wayOf(strengths[0]!, frames, inside), ...target! }, ...along];
  });
}

const wayBy = (pass: string, strength: number, frames: number) => `${wayOf(strength, frames)} by ${pass}`;

/** Where a pass goes that is done in some way: where it is, if it was, and else to a new place. */
export function placeFor(brief: Brief, pass: string, way: string, made: readonly MadePass[]): DenoisedPlace {
  const settled = made.findLast((one) => one.pass === pass && one.way === way);
  return settled ? { name: settled.name, pattern: settled.pattern } : freshPlace(brief, pass, made);
}

/** A place that nothing of the pass has gone to, and that the brief orders for nothing else. */
export function freshPlace(brief: Brief, pass: string, made: readonly MadePass[]): DenoisedPlace {
  for (let version = 0; ; version++) {
    const place = denoisedPlace(brief, pass, version);
    const ordered = brief.passes.find(({ name }) => name === place.name);
    if (made.some((one) => one.pass === pass && one.name === place.name) || (ordered && ordered.denoisedFrom !== pass)) continue;
    return ordered ? { name: ordered.name, pattern: ordered.pattern } : place;
  }
}

/** Where a pass goes with the lights that go along with it; those that live in one file stay together. */
export function placesWithLights(
  brief: Brief,
  pass: BriefPass,
  [strength, frames]: readonly [strength: number, frames: number],
  made: readonly MadePass[],
): Required<Pick<DenoiseRequest, 'target' | 'lights'>> {
  const lights = lightsBeside(brief.passes, pass);
  const inside = lights.filter(({ pattern }) => pattern === pass.pattern).map(({ name }) => name);
  const target = placeFor(brief, pass.name, wayOf(strength, frames, inside), made);
  const patterns = new Map([[pass.pattern, target.pattern]]);
  return {
    target,
    lights: lights.map(({ name, pattern: original }) => {
      const place = placeFor(brief, name, wayBy(pass.name, strength, frames), made);
      const pattern = patterns.get(original) ?? place.pattern;
      patterns.set(original, pattern);
      return { pass: name, target: { name: place.name, pattern } };
    }),
  };
}
