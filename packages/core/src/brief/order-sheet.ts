import { framePath } from '../naming/index.ts';
import { formatFrameRange } from '../ranges/index.ts';
import type { Order } from './order.ts';

/** A pass as the order sheet lists it; what the brief does not state is empty. */
export interface OrderSheetRow {
  readonly pass: string;
  readonly role: string;
  readonly range: string;
  readonly frames: number;
  readonly first: string;
  readonly last: string;
  readonly width: string;
  readonly height: string;
  readonly channels: string;
  readonly depth: string;
  readonly compression: string;
  readonly alpha: string;
  readonly colourSpace: string;
}

/** The order, a row a pass. */
export function orderSheet(order: Order): OrderSheetRow[] {
  return order.passes.map(({ pass, pattern, frames, resolution }) => ({
    pass: pass.name,
    role: pass.role ?? '',
    range: formatFrameRange(frames),
    frames: frames.size,
    first: frames.first === undefined ? '' : framePath(pattern, frames.first),
    last: frames.last === undefined ? '' : framePath(pattern, frames.last),
    width: resolution ? String(resolution[0]) : '',
    height: resolution ? String(resolution[1]) : '',
    channels: pass.channels?.join(' ') ?? '',
    depth: pass.depth ?? '',
    compression: pass.compression?.join(' ') ?? '',
    alpha: pass.alpha ?? '',
    colourSpace: pass.colourSpace ?? '',
  }));
}

/** Rows as comma-separated values with a line of headings (RFC 4180). */
export function writeCsv(rows: readonly object[]): string {
  if (rows.length === 0) return '';
  const headings = Object.keys(rows[0]);
  const lines = [headings, ...rows.map((row) => headings.map((name) => String((row as Record<string, unknown>)[name] ?? '')))];
  return lines.map((line) => line.map(csvCell).join(',')).join('\r\n') + '\r\n';
}

function csvCell(value: string): string {
  return /[",\r\n]/.test(value) || /^\s|\s$/.test(value) ? `"${value.replaceAll('"', '""')}"` : value;
}
