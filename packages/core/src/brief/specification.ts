import * as z from 'zod';
import { fillNaming } from './naming-tokens.ts';
import type { Order } from './order.ts';
import { formatOf } from './planning.ts';
import { sampleDepths } from '../formats/index.ts';
import { passRoles } from './schema.ts';
import { counted } from '../wording.ts';

/** A bag is a folder with checksums of all that is in it (RFC 8493); a plain folder is the frames alone. */
export const packageForms = ['bag', 'plain folder'] as const;
/** The form in which Mint Tally writes packages. */
const WRITTEN_FORM: (typeof packageForms)[number] = 'bag';

/** The fewest things that a receiver asks for; saved under a name, followed by any number of shots. */
export const specificationSchema = z.object({
  name: z.string('A specification needs a name.').trim().min(1, 'A specification needs a name.').max(100),
  minimumSamples: z.number('A number of samples is needed.').int('Samples are whole.').positive().optional(),
  /** Extensions in small letters; any of them will do. */
  formats: z.array(z.string().min(1).max(10)).min(1).optional(),
  /** Any of them will do for the beauty and its lights. */
  depths: z.array(z.enum(sampleDepths)).min(1).optional(),
  resolution: z.tuple([z.number().int().positive(), z.number().int().positive()], 'Width and height are needed.').optional(),
  minimumPadding: z.number().int().min(1).max(12).optional(),
  /** Template that every pass's pattern must be made from. */
  naming: z
    .string()
    .max(1024)
    .optional()
    .superRefine((template, context) => {
      if (template === undefined) return;
      try {
        fillNaming(template, { shot: 'shot', pass: 'pass', version: 'v001' });
      } catch (thrown) {
        context.addIssue({ code: 'custom', message: thrown instanceof Error ? thrown.message : 'It is no template.' });
      }
    }),
  /** How the package is to be made up. */
  packageForm: z.enum(packageForms).optional(),
  /** Roles of which at least one pass each must be there. */
  roles: z.array(z.enum(passRoles)).optional(),
});
export type Specification = z.output<typeof specificationSchema>;

/** A point in which an order departs from a specification. */
export interface Departure {
  /** The entry of the brief that it is about. */
  readonly field: string;
  readonly message: string;
}

/** Where an order departs from what a receiver asks for; empty when it does not. */
export function findDepartures(order: Order, specification: Specification): Departure[] {
  const found: Departure[] = [];
  const { brief } = order;
  const { minimumSamples, resolution, roles, packageForm } = specification;
  const samples = brief.sampling?.samples;
  if (minimumSamples !== undefined && (samples ?? 0) < minimumSamples) {
    found.push({
      field: 'sampling.samples',
      message: `${samples === undefined ? 'No number of samples' : counted(samples, 'sample')} where at least ${minimumSamples} are asked for.`,
    });
  }
  if (resolution && brief.resolution?.join() !== resolution.join()) {
    found.push({ field: 'resolution', message: `${brief.resolution?.join(' x ') ?? 'No size'} where ${resolution.join(' x ')} is asked for.` });
  }
  for (const role of roles ?? []) {
    if (!order.passes.some(({ pass }) => pass.role === role)) found.push({ field: 'passes', message: `There is no ${role} pass.` });
  }
  if (packageForm !== undefined && packageForm !== WRITTEN_FORM) {
    found.push({ field: 'package', message: `The package will be a ${WRITTEN_FORM} where a ${packageForm} is asked for; the frames lie in its folder data.` });
  }
  order.passes.forEach((ordered, index) => found.push(...passDepartures(order, ordered, index, specification)));
  return found;
}

function passDepartures(
  order: Order,
  ordered: Order['passes'][number],
  index: number,
  { formats, depths, minimumPadding, naming }: Specification,
): Departure[] {
  const found: Departure[] = [];
  const { pass, pattern } = ordered;
  const at = (field: string) => `passes.${index}.${field}`;
  if (formats && !formats.includes(formatOf(ordered)))
    found.push({ field: at('pattern'), message: `${pass.name} is ${formatOf(ordered) || 'of no format'} where ${formats.join(' or ')} is asked for.` });
  if (depths && (pass.role === 'beauty' || pass.role === 'light') && (pass.depth === undefined || !depths.includes(pass.depth))) {
    found.push({
      field: at('depth'),
      message: `${pass.name} ${pass.depth === undefined ? 'states no depth' : `is ${pass.depth}`} where ${depths.join(' or ')} is asked for.`,
    });
  }
  if (minimumPadding !== undefined && pattern.padding.width < minimumPadding) {
    found.push({ field: at('pattern'), message: `${pass.name} is padded to ${pattern.padding.width} where at least ${minimumPadding} digits are asked for.` });
  }
  if (naming !== undefined) {
    const wanted = fillNaming(naming, { shot: order.brief.shot, pass: pass.name, version: order.brief.version ?? '' });
    if (wanted !== pass.pattern) found.push({ field: at('pattern'), message: `${pass.name} is named ${pass.pattern} where ${wanted} is asked for.` });
  }
  return found;
}

/** What a brief itself would ask for, as a beginning for a specification. */
export function specificationOf(order: Order, name: string): Specification {
  const { brief, passes } = order;
  const unique = <Value>(values: readonly (Value | undefined)[]) => [...new Set(values.filter((value) => value !== undefined))] as Value[];
  const depths = unique(passes.filter(({ pass }) => pass.role === 'beauty' || pass.role === 'light').map(({ pass }) => pass.depth));
  const roles = unique(passes.map(({ pass }) => pass.role));
  return {
    name,
    ...(brief.sampling?.samples === undefined ? {} : { minimumSamples: brief.sampling.samples }),
    formats: unique(passes.map(formatOf)),
    ...(depths.length === 0 ? {} : { depths }),
    ...(brief.resolution ? { resolution: brief.resolution } : {}),
    packageForm: WRITTEN_FORM,
    minimumPadding: Math.min(...passes.map(({ pattern }) => pattern.padding.width)),
    ...(brief.naming === undefined ? {} : { naming: brief.naming }),
    ...(roles.length === 0 ? {} : { roles }),
  };
}
