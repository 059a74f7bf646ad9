import type { Brief } from './schema.ts';

/** One entry that two versions of a brief state differently; null where a version does not state it. */
export interface BriefDifference {
  /** Such as `range` or `depth: compression`, where depth is a pass. */
  readonly entry: string;
  readonly before: string | null;
  readonly after: string | null;
}

/** What changed from one version of a brief to another. Passes are compared by their names. */
export function compareBriefs(before: Brief, after: Brief): BriefDifference[] {
  const [a, b] = [flatten(before), flatten(after)];
  return [...new Set([...a.keys(), ...b.keys()])]
    .filter((entry) => a.get(entry) !== b.get(entry))
    .map((entry) => ({ entry, before: a.get(entry) ?? null, after: b.get(entry) ?? null }));
}

function flatten(brief: Brief): Map<string, string> {
  const { passes, ...shot } = brief;
  const entries = new Map<string, string>();
  const add = (prefix: string, value: object) => {
    for (const [name, entry] of Object.entries(value)) if (entry !== undefined) entries.set(`${prefix}${name}`, textOf(entry));
  };
  add('', shot);
  for (const pass of passes) add(`${pass.name}: `, { ...pass, name: undefined, ordered: 'yes' });
  return entries;
}

function textOf(value: unknown): string {
  if (Array.isArray(value)) return value.map(textOf).join(' ');
  if (typeof value === 'object' && value !== null) {
    return Object.entries(value)
      .filter(([, entry]) => entry !== undefined)
      .map(([name, entry]) => `${name} ${textOf(entry)}`)
      .join(', ');
  }
  return typeof value === 'boolean' ? (value ? 'yes' : 'no') : String(value);
}
