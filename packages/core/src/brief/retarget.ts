import { fillNaming } from './naming-tokens.ts';
import type { Brief } from './schema.ts';

/**
 * A brief for another shot: its passes and settings under the other shot's names. Patterns are
 * made anew from the naming template where there is one; else the shot's name in them is exchanged.
 *
 * @param target what stays the other shot's own: its name and, where given, its frames and sound
 * @throws NamingTemplateError, NamePatternError when the template cannot be filled in
 */
export function retargetBrief(
  brief: Brief,
  target: Pick<Brief, 'shot'> & Partial<Pick<Brief, 'range' | 'duration' | 'handles' | 'sound' | 'test' | 'cuts'>>,
): Brief {
  const ownFrames =
    target.range === undefined
      ? {}
      : { range: target.range, duration: target.duration, handles: target.handles, sound: target.sound, test: target.test, cuts: target.cuts };
  return {
    ...brief,
    ...ownFrames,
    shot: target.shot,
    passes: brief.passes.map((pass) => ({
      ...pass,
      pattern:
        brief.naming === undefined
          ? pass.pattern.replaceAll(brief.shot, target.shot)
          : fillNaming(brief.naming, { shot: target.shot, pass: pass.name, version: brief.version ?? '' }),
    })),
  };
}
