import Papa from 'papaparse';
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

/**
 * Rows as comma-separated values with a line of headings (RFC 4180). Texts that a spreadsheet would take
 * for a formula are set behind an apostrophe: a file's name must not compute anything where it is opened.
 */
export function writeCsv(rows: readonly object[]): string {
  if (rows.length === 0) return '';
  return `${Papa.unparse([...rows], { newline: '\r\n', escapeFormulae: true })}\r\n`;
}
