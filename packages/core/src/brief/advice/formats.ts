import type { OrderedPass } from '../order.ts';
import { formatOf } from '../planning.ts';
import type { PassRole } from '../schema.ts';
import { advice, counted, type Advice, type AdviceRule } from './advice.ts';

/** Passes whose values are measured, not looked at: a changed value is a wrong value. */
const DATA_ROLES: ReadonlySet<PassRole> = new Set(['depth', 'normal', 'motion', 'matte', 'id', 'occlusion']);
/** Passes that half floats hold without a visible difference. */
const HALF_WILL_DO: ReadonlySet<PassRole> = new Set(['beauty', 'light', 'albedo', 'normal', 'occlusion', 'matte']);
const LOSSY_FORMATS = new Set(['jpg', 'jpeg', 'webp']);
const LOSSY_COMPRESSIONS = new Set(['b44', 'b44a', 'dwaa', 'dwab', 'pxr24']);
const FORMATS_WITHOUT_ALPHA = new Set(['jpg', 'jpeg', 'hdr']);

const isData = (ordered: OrderedPass) => ordered.pass.role !== undefined && DATA_ROLES.has(ordered.pass.role);

export const lossyRule: AdviceRule = (order) =>
  order.passes.flatMap((ordered, index) => {
    const format = formatOf(ordered);
    const found: Advice[] = [];
    if (LOSSY_FORMATS.has(format)) {
      const message = isData(ordered)
        ? `A ${ordered.pass.role} pass holds values, and ${format} changes them.`
        : `${format} is lossy and has 8 bits: soft gradients will band.`;
      found.push(advice('lossy-format', `passes.${index}.pattern`, message, '256 code values at most, and none of them exact'));
    }
    const lossy = ordered.pass.compression?.filter((one) => LOSSY_COMPRESSIONS.has(one) && !(one === 'pxr24' && ordered.pass.depth === 'half')) ?? [];
    if (lossy.length > 0 && isData(ordered)) {
      found.push(
        advice(
          'lossy-format',
          `passes.${index}.compression`,
          `A ${ordered.pass.role} pass holds values, and ${lossy.join(', ')} changes them.`,
          'zip, zips and piz give back what was written',
        ),
      );
    }
    return found;
  });

export const heavyRule: AdviceRule = (order) =>
  order.passes.flatMap((ordered, index) => {
    const { pass, resolution, frames } = ordered;
    if (!pass.role || !HALF_WILL_DO.has(pass.role) || formatOf(ordered) !== 'exr' || (pass.depth !== 'float' && pass.depth !== 'uint')) return [];
    const channels = pass.channels?.length ?? 3;
    const wasted = resolution ? resolution[0] * resolution[1] * channels * 2 * frames.size : null;
    const sum =
      wasted === null
        ? '4 bytes a sample where 2 would do'
        : `${resolution!.join(' x ')} x ${counted(channels, 'channel')} x 2 bytes x ${counted(frames.size, 'frame')} = ${(wasted / 1e9).toFixed(2)} GB before packing`;
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
    if (pass.alpha === undefined || pass.alpha === 'none') return [];
    const format = formatOf(ordered);
    if (FORMATS_WITHOUT_ALPHA.has(format))
      return [advice('alpha-lacking', `passes.${index}.alpha`, `${format} has no alpha channel.`, `${pass.alpha} alpha is ordered`)];
    if (pass.channels && !pass.channels.some((name) => name === 'A' || name.endsWith('.A'))) {
      return [advice('alpha-lacking', `passes.${index}.channels`, 'Alpha is ordered, and no channel is there for it.', `channels ${pass.channels.join(' ')}`)];
    }
    return [];
  });
