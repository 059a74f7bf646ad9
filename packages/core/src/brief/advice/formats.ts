import { frameKindOf, isAlphaName, isSamePacking, type Packing } from '../../formats/index.ts';
import { bandingOf, type Gradients } from '../banding.ts';
import type { OrderedPass } from '../order.ts';
import { formatOf } from '../planning.ts';
import type { PassRole } from '../schema.ts';
import { counted, sayBytes } from '../../wording.ts';
import { advice, type Advice, type AdviceRule } from './advice.ts';

/** Passes whose values are measured, not looked at: a changed value is a wrong value. */
const DATA_ROLES: ReadonlySet<PassRole> = new Set(['depth', 'normal', 'motion', 'matte', 'id', 'occlusion']);
/** Passes that half floats hold without a visible difference. */
const HALF_WILL_DO: ReadonlySet<PassRole> = new Set(['beauty', 'light', 'albedo', 'normal', 'occlusion', 'matte', 'half']);

/** What the format of a pass can hold; null for formats that are not looked into. */
const holdsOf = (ordered: OrderedPass) => frameKindOf(formatOf(ordered))?.holds ?? null;
const changesValues = (packing: Packing | undefined, depth: string | undefined) =>
  packing?.changes !== undefined && (depth === undefined || packing.changes.some((one) => one === depth));
/** Whether a format has no packing that keeps what was written. */
const isAlwaysLossy = (ordered: OrderedPass) =>
  Object.values(holdsOf(ordered)?.packings ?? { none: { share: 1 } }).every(({ changes }) => changes !== undefined);

const isData = (ordered: OrderedPass) => ordered.pass.role !== undefined && DATA_ROLES.has(ordered.pass.role);

export const lossyRule: AdviceRule = (order) =>
  order.passes.flatMap((ordered, index) => {
    const format = formatOf(ordered);
    const found: Advice[] = [];
    if (isAlwaysLossy(ordered)) {
      const message = isData(ordered)
        ? `A ${ordered.pass.role} pass holds values, and ${format} changes them.`
        : `${format} is lossy and has 8 bits: soft gradients will band.`;
      const gradients = isData(ordered) ? undefined : order.brief.sampling?.gradients;
      const sum = gradients ? gradientSum(gradients, 8) : '256 code values at most, and none of them exact';
      found.push(advice('lossy-format', `passes.${index}.pattern`, message, sum));
    }
    const packings = holdsOf(ordered)?.packings ?? {};
    const lossy = isAlwaysLossy(ordered) ? [] : (ordered.pass.compression?.filter((one) => changesValues(packings[one], ordered.pass.depth)) ?? []);
    if (lossy.length > 0 && isData(ordered)) {
      found.push(
        advice(
          'lossy-format',
          `passes.${index}.compression`,
          `A ${ordered.pass.role} pass holds values, and ${lossy.join(', ')} changes them.`,
          `${Object.keys(packings)
            .filter((one) => packings[one]!.changes === undefined)
            .join(', ')} give back what was written`,
        ),
      );
    }
    return found;
  });

/** What rounding to so many bits makes of the measured gradients, as a sum. */
function gradientSum(gradients: Gradients, bits: number): string {
  const { codes, stepPixels, noise } = bandingOf(gradients, bits);
  const steps = `${gradients.pixels} pixels of the softest gradients (${(gradients.share * 100).toFixed(0)} % of the test frame are soft) go over ${codes.toFixed(1)} of ${2 ** bits} code values: a step every ${stepPixels.toFixed(0)} pixels`;
  return `${steps}; the noise there is ${noise.toFixed(2)} of a value, and 0.5 would hide the steps`;
}

/** Integers of few bits band where the shot's own gradients are soft and clean. */
export const bandingRule: AdviceRule = (order) => {
  const gradients = order.brief.sampling?.gradients;
  if (!gradients) return [];
  return order.passes.flatMap((ordered, index) => {
    const bits = Number(ordered.pass.depth);
    const looked = ordered.pass.role === undefined || ordered.pass.role === 'beauty' || ordered.pass.role === 'light';
    if (!looked || !bits || isAlwaysLossy(ordered) || !bandingOf(gradients, bits).visible) return [];
    return [advice('banding', `passes.${index}.depth`, `${bits} bits are too few for the soft gradients of this shot.`, gradientSum(gradients, bits))];
  });
};

/** Integers of 16 bits in passes that halves hold: as many bytes a sample, more of them once packed. */
const halfForIntegersRule: AdviceRule = (order) =>
  order.passes.flatMap((ordered, index) => {
    const { pass, resolution, frames } = ordered;
    if (!pass.role || !HALF_WILL_DO.has(pass.role) || pass.depth !== '16' || ordered.owner !== index) return [];
    const field = `passes.${index}.depth`;
    if (pass.role === 'matte' || pass.role === 'occlusion') {
      // Shares from none to all: 256 steps are what a matte needs, the second byte is for nothing.
      const wasted = resolution && resolution[0] * resolution[1] * (pass.channels?.length ?? 1) * frames.size;
      const sum = wasted
        ? `${resolution.join(' x ')} x 1 byte x ${counted(frames.size, 'frame')} = ${sayBytes(wasted)} before packing`
        : '1 byte a sample too many';
      return [advice('heavy-format', field, `8 bits hold a ${pass.role} pass as well, in half the bytes.`, sum)];
    }
    if (pass.role !== 'beauty' && pass.role !== 'light') return [];
    return [
      advice(
        'heavy-format',
        field,
        `Half floats hold a ${pass.role} pass in the same 2 bytes, and light brighter than 1 as well; 16 bit integers cut it off.`,
        '65,536 even steps from 0 to 1, where half has 1,024 for every doubling up to 65,504: 0 bytes saved, the highlights lost',
      ),
    ];
  });

/** Integers of more bits than are seen: where the noise of the shot's own gradients hides the steps of 8 bits. */
const fewerBitsRule: AdviceRule = (order) => {
  const gradients = order.brief.sampling?.gradients;
  if (!gradients) return [];
  return order.passes.flatMap((ordered, index) => {
    const { pass, resolution, frames } = ordered;
    const bits = Number(pass.depth);
    if (!(bits > 8) || ordered.owner !== index || (pass.role !== undefined && pass.role !== 'beauty' && pass.role !== 'light')) return [];
    if (!holdsOf(ordered)?.depths.includes('8') || bandingOf(gradients, 8).visible) return [];
    const wasted = resolution && (resolution[0] * resolution[1] * (pass.channels?.length ?? 3) * frames.size * (bits - 8)) / 8;
    const saved = wasted ? ` = ${sayBytes(wasted)} before packing` : '';
    return [
      advice(
        'heavy-format',
        `passes.${index}.depth`,
        'For the screen 8 bits would do: the noise of the shot hides their steps.',
        `${bits - 8} bits a sample${saved}; ${gradientSum(gradients, 8)}`,
      ),
    ];
  });
};

/** Depths, packings and kinds of alpha that a format does not have. */
export const limitRule: AdviceRule = (order) =>
  order.passes.flatMap((ordered, index) => {
    const holds = holdsOf(ordered);
    if (!holds) return [];
    const { depth, compression, alpha } = ordered.pass;
    const format = formatOf(ordered);
    const found: Advice[] = [];
    if (depth !== undefined && !holds.depths.includes(depth))
      found.push(advice('format-limit', `passes.${index}.depth`, `${format} holds no samples of the kind ${depth}.`, `it holds ${holds.depths.join(', ')}`));
    const unknown = compression?.filter((one) => !Object.keys(holds.packings).some((packing) => isSamePacking(packing, one))) ?? [];
    if (unknown.length > 0)
      found.push(
        advice(
          'format-limit',
          `passes.${index}.compression`,
          `${format} has no compression called ${unknown.join(' or ')}.`,
          `it has ${Object.keys(holds.packings).join(', ')}`,
        ),
      );
    if (alpha !== undefined && alpha !== 'none' && holds.alpha.length > 0 && !holds.alpha.includes(alpha))
      found.push(
        advice(
          'format-limit',
          `passes.${index}.alpha`,
          `${format} keeps ${holds.alpha.join(' or ')} alpha only; programs that keep to its rules will take ${alpha} colours for that.`,
          `${alpha} alpha is ordered`,
        ),
      );
    return found;
  });

export const heavyRule: AdviceRule = (order, context) => {
  const fewer = fewerBitsRule(order, context);
  // Of an entry one thing is said: that fewer bits will do comes before what would hold more.
  const others = halfForIntegersRule(order, context).filter(({ field }) => !fewer.some((one) => one.field === field));
  return [...floatsRule(order, context), ...fewer, ...others];
};

const floatsRule: AdviceRule = (order) =>
  order.passes.flatMap((ordered, index) => {
    const { pass, resolution, frames } = ordered;
    if (!pass.role || !HALF_WILL_DO.has(pass.role) || !holdsOf(ordered)?.depths.includes('half') || (pass.depth !== 'float' && pass.depth !== 'uint'))
      return [];
    const channels = pass.channels?.length ?? 3;
    const wasted = resolution ? resolution[0] * resolution[1] * channels * 2 * frames.size : null;
    const sum =
      wasted === null
        ? '4 bytes a sample where 2 would do'
        : `${resolution!.join(' x ')} x ${counted(channels, 'channel')} x 2 bytes x ${counted(frames.size, 'frame')} = ${sayBytes(wasted)} before packing`;
    return [advice('heavy-format', `passes.${index}.depth`, `Half floats hold a ${pass.role} pass as well, in half the bytes.`, sum)];
  });

/** Fewest bits that a role's values need; integers of a lesser depth show steps. */
const NEEDS: Partial<Record<PassRole, { enough: readonly string[]; why: string }>> = {
  depth: { enough: ['half', 'float', '16'], why: 'distances fall into 256 steps' },
  normal: { enough: ['half', 'float', '16'], why: 'a direction is off by up to half a degree' },
  motion: { enough: ['half', 'float', '16'], why: 'motion below a pixel is lost' },
  id: { enough: ['uint', 'float', '16', 'half'], why: 'only 256 objects can be told apart' },
};

export const roleDepthRule: AdviceRule = (order) =>
  order.passes.flatMap(({ pass }, index) => {
    const need = pass.role && NEEDS[pass.role];
    if (!need || pass.depth === undefined || need.enough.includes(pass.depth)) return [];
    const bits = Number(pass.depth);
    return [
      advice(
        'role-depth',
        `passes.${index}.depth`,
        `A ${pass.role} pass needs more than ${pass.depth} bits: ${need.why}.`,
        `2^${bits} = ${(2 ** bits).toLocaleString('en')} values`,
      ),
    ];
  });

export const alphaRule: AdviceRule = (order) =>
  order.passes.flatMap((ordered, index) => {
    const { pass } = ordered;
    const lacks = pass.channels !== undefined && !pass.channels.some(isAlphaName);
    if (pass.alpha === undefined && pass.role === 'beauty' && lacks) {
      const message = 'A beauty pass without alpha cannot be laid over another background. Say alpha none if that is meant.';
      return [advice('alpha-lacking', `passes.${index}.alpha`, message, `channels ${pass.channels!.join(' ')}`)];
    }
    if (pass.alpha === undefined || pass.alpha === 'none') return [];
    if (holdsOf(ordered)?.alpha.length === 0)
      return [advice('alpha-lacking', `passes.${index}.alpha`, `${formatOf(ordered)} has no alpha channel.`, `${pass.alpha} alpha is ordered`)];
    if (lacks) {
      return [advice('alpha-lacking', `passes.${index}.channels`, 'Alpha is ordered, and no channel is there for it.', `channels ${pass.channels!.join(' ')}`)];
    }
    return [];
  });
