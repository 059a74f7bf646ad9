import { MintError } from '../errors.ts';
import { parseNamePattern } from '../naming/index.ts';

/** What a naming template may speak of besides the frame number. */
export interface NamingValues {
  readonly shot: string;
  readonly pass: string;
  readonly version: string;
}

/** Raised when a naming template cannot be filled in. */
export class NamingTemplateError extends MintError {
  constructor(template: string, why: string) {
    super('naming-template', `“${template}” cannot name files: ${why}.`, { remedy: 'Write it like {pass}/{shot}_{version}_{pass}.####.exr.' });
  }
}

const TOKEN = /\{([^{}]*)\}/g;
const NAMES = ['shot', 'pass', 'version'] as const satisfies readonly (keyof NamingValues)[];

/**
 * Fills a naming template in for one pass: `{pass}/{shot}_{version}_{pass}.####.exr` becomes a
 * name pattern. A value that is empty takes the separator before it along, so that a shot without
 * a version has no double underscore.
 *
 * @throws NamingTemplateError for a token that is none, NamePatternError for what is no pattern
 */
export function fillNaming(template: string, values: NamingValues): string {
  const filled = template.replace(/([._-]?)\{([^{}]*)\}/g, (_, before: string, token: string) => {
    const name = NAMES.find((candidate) => candidate === token.trim());
    if (!name) throw new NamingTemplateError(template, `there is no token {${token}}; there are ${NAMES.map((one) => `{${one}}`).join(', ')}`);
    const value = safeValue(values[name]);
    return value === '' ? '' : before + value;
  });
  if (/[{}]/.test(filled)) throw new NamingTemplateError(template, 'a brace has no partner');
  parseNamePattern(filled);
  return filled;
}

/** A value may not bring folders or frame tokens of its own. */
function safeValue(value: string): string {
  return value.trim().replace(/[\\/#%\s]+/g, '_');
}

/** Whether a text holds tokens, or is a pattern as it stands. */
export function hasTokens(text: string): boolean {
  return text.search(TOKEN) >= 0;
}
