import { isAlphaName, isSamePacking } from '../formats/index.ts';
import type { OrderedPass } from '../brief/index.ts';
import type { FrameHeader } from '../formats/index.ts';
import type { FindingCode } from './codes.ts';

/** A way in which a file is of another kind than ordered; `detail` says found and ordered. */
export interface KindDifference {
  readonly code: FindingCode;
  readonly detail: string;
}

/** What kind of file a pass wants, as far as its brief says so. */
export interface WantedKind {
  readonly resolution: readonly [number, number] | null;
  readonly pixelAspect: number | null;
  readonly depth: string | null;
  readonly channels: readonly string[] | null;
  readonly compression: readonly string[] | null;
  readonly alpha: string | null;
}

export function wantedKind(ordered: OrderedPass, pixelAspect: number | undefined): WantedKind {
  const { pass } = ordered;
  return {
    resolution: ordered.resolution,
    pixelAspect: pixelAspect ?? null,
    depth: pass.depth ?? null,
    channels: pass.channels ?? null,
    compression: pass.compression ?? null,
    alpha: pass.alpha ?? null,
  };
}

/** Aspects nearer than this are the same: formats keep them as whole pixels a metre, or 32 bits. */
const ASPECT_TOLERANCE = 0.002;

/**
 * What belongs to the file as a whole: size, pixel aspect, compression.
 */
export function compareFileKind(header: FrameHeader, wanted: WantedKind): KindDifference[] {
  const differences: KindDifference[] = [];
  if (wanted.resolution && (header.width !== wanted.resolution[0] || header.height !== wanted.resolution[1])) {
    differences.push({
      code: 'wrong-resolution',
      detail: `${header.width} x ${header.height} where ${wanted.resolution[0]} x ${wanted.resolution[1]} is ordered`,
    });
  }
  if (wanted.pixelAspect !== null && Math.abs((header.pixelAspect ?? 1) - wanted.pixelAspect) > ASPECT_TOLERANCE) {
    differences.push({
      code: 'wrong-pixel-aspect',
      detail: `pixel aspect ${round(header.pixelAspect ?? 1)} where ${round(wanted.pixelAspect)} is ordered`,
    });
  }
  if (wanted.compression && !wanted.compression.some((one) => isSamePacking(one, header.compression))) {
    differences.push({
      code: 'wrong-compression',
      detail: `packed with ${header.compression} where ${wanted.compression.join(' or ')} is ordered`,
    });
  }
  return differences;
}

/**
 * What belongs to a pass: its channels, their depth, and alpha.
 *
 * @param others channels that other passes order from the same files
 */
export function comparePassKind(header: FrameHeader, wanted: WantedKind, others: ReadonlySet<string>): KindDifference[] {
  const differences: KindDifference[] = [];
  const channelDifference = compareChannels(header, wanted, others);
  if (channelDifference) differences.push(channelDifference);
  if (wanted.depth !== null) {
    const looked = header.channels.filter((channel) => {
      if (!header.namedChannels) return true;
      return wanted.channels ? wanted.channels.includes(channel.name) : !others.has(channel.name);
    });
    const odd = looked.filter((channel) => channel.depth !== wanted.depth);
    if (odd.length > 0) {
      const found = [...new Set(odd.map((channel) => channel.depth))].join(' and ');
      const which = odd.length < looked.length ? ` in ${odd.map((channel) => channel.name).join(', ')}` : '';
      differences.push({ code: 'wrong-depth', detail: `${depthText(found)}${which} where ${depthText(wanted.depth)} is ordered` });
    }
  }
  return differences;
}

function compareChannels(header: FrameHeader, wanted: WantedKind, others: ReadonlySet<string>): KindDifference | null {
  const found = header.channels.map((channel) => channel.name);
  if (wanted.channels === null) return compareAlpha(found, wanted);
  if (!header.namedChannels) return compareChannelCount(found, wanted.channels);
  const foundSet = new Set(found);
  const wantedSet = new Set(wanted.channels);
  const lacking = wanted.channels.filter((name) => !foundSet.has(name));
  const extra = found.filter((name) => !wantedSet.has(name) && !others.has(name));
  return describeChannels(lacking, extra);
}

/** Formats without channel names are compared by how many colours there are, and alpha. */
function compareChannelCount(found: readonly string[], wanted: readonly string[]): KindDifference | null {
  const colours = (names: readonly string[]) => names.filter((name) => !isAlphaName(name)).length;
  const hasAlpha = (names: readonly string[]) => names.some(isAlphaName);
  if (colours(found) === colours(wanted) && hasAlpha(found) === hasAlpha(wanted)) return null;
  if (colours(found) === colours(wanted) && !hasAlpha(found)) return describeChannels(['A'], []);
  return { code: 'wrong-channels', detail: `${found.join(' ')} where ${wanted.join(' ')} is ordered` };
}

function compareAlpha(found: readonly string[], wanted: WantedKind): KindDifference | null {
  if (wanted.alpha === null) return null;
  const has = found.some(isAlphaName);
  if (wanted.alpha !== 'none' && !has) return describeChannels(['A'], []);
  if (wanted.alpha === 'none' && has) return { code: 'wrong-alpha', detail: 'an alpha channel where none is ordered' };
  return null;
}

function describeChannels(lacking: readonly string[], extra: readonly string[]): KindDifference | null {
  if (lacking.length === 0 && extra.length === 0) return null;
  if (extra.length === 0 && lacking.every(isAlphaName)) return { code: 'wrong-alpha', detail: 'no alpha channel' };
  const parts = [];
  if (lacking.length > 0) parts.push(`without ${lacking.join(', ')}`);
  if (extra.length > 0) parts.push(`with ${extra.join(', ')} that nobody ordered`);
  return { code: 'wrong-channels', detail: parts.join(', ') };
}

function depthText(depth: string): string {
  return /^\d/.test(depth) ? `${depth} bit` : depth;
}

function round(value: number): string {
  return String(Math.round(value * 1000) / 1000);
}
