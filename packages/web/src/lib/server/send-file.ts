import { createReadStream, fstatSync } from 'node:fs';
import path from 'node:path';
import { Readable } from 'node:stream';
import type { OpenFile } from '@mint-tally/engine';
import parseRange from 'range-parser';

const TYPES: Record<string, string> = {
  ...{ '.mp4': 'video/mp4', '.mov': 'video/quicktime', '.webm': 'video/webm', '.gif': 'image/gif', '.webp': 'image/webp' },
  ...{ '.png': 'image/png', '.pdf': 'application/pdf', '.tar': 'application/x-tar', '.json': 'application/json' },
  ...{ '.txt': 'text/plain; charset=utf-8', '.md': 'text/plain; charset=utf-8', '.csv': 'text/csv; charset=utf-8' },
};

/**
 * A file, or the part of it that is asked for: without parts a player could neither seek nor begin before the end is there, and a
 * download that broke off would begin anew.
 *
 * @param file is closed when it has been sent
 */
export function sendFile({ descriptor }: OpenFile, name: string, request: Request, isDownload: boolean): Response {
  const { size, mtime } = fstatSync(descriptor);
  const headers: Record<string, string> = {
    'content-type': TYPES[path.extname(name).toLowerCase()] ?? 'application/octet-stream',
    'accept-ranges': 'bytes',
    'last-modified': mtime.toUTCString(),
    ...(isDownload ? { 'content-disposition': `attachment; filename*=UTF-8''${encodeURIComponent(name)}` } : {}),
  };
  const asked = request.headers.get('range');
  const ranges = asked === null ? null : parseRange(size, asked, { combine: true });
  // What is no range of bytes is not followed, and several parts at a time are answered with all (RFC 9110, section 14.2).
  const one = Array.isArray(ranges) && ranges.type === 'bytes' && ranges.length === 1 ? ranges[0]! : null;
  const [start, end] = one ? [one.start, one.end] : [0, size - 1];
  const isEmpty = ranges === -1 || size === 0;
  // Ended before its first byte where nothing is sent, so that the file is closed.
  const stream = createReadStream('', { fd: descriptor, start, end: isEmpty ? undefined : end });
  if (isEmpty) stream.destroy();
  if (ranges === -1) return new Response(null, { status: 416, headers: { ...headers, 'content-range': `bytes */${size}` } });
  return new Response(isEmpty ? null : (Readable.toWeb(stream) as ReadableStream), {
    status: one ? 206 : 200,
    headers: { ...headers, 'content-length': String(size === 0 ? 0 : end - start + 1), ...(one ? { 'content-range': `bytes ${start}-${end}/${size}` } : {}) },
  });
}
