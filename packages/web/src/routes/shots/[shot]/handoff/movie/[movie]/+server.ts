import { createReadStream } from 'node:fs';
import { stat } from 'node:fs/promises';
import path from 'node:path';
import { Readable } from 'node:stream';
import { error } from '@sveltejs/kit';
import parseRange from 'range-parser';
import { shotNumber, told } from '$lib/server/errors';
import { findMovie } from '$lib/server/handoff';
import type { RequestHandler } from './$types';

const TYPES: Record<string, string> = { '.mp4': 'video/mp4', '.mov': 'video/quicktime', '.webm': 'video/webm', '.gif': 'image/gif', '.webp': 'image/webp' };

/** A movie, or the part of it that a player asks for: without parts it could neither seek nor begin before the end is there. */
export const GET: RequestHandler = async ({ params, request, url }) => {
  const movie = await told(() => findMovie(shotNumber(params.shot), Number(params.movie)));
  const stats = movie && (await stat(movie.path).catch(() => null));
  if (!movie || !stats?.isFile()) error(404, { message: 'The movie is not where it was written.', remedy: 'Make it again, or look where it was moved to.' });
  const { size } = stats;
  const headers: Record<string, string> = {
    'content-type': TYPES[path.extname(movie.name).toLowerCase()] ?? 'application/octet-stream',
    'accept-ranges': 'bytes',
    'last-modified': stats.mtime.toUTCString(),
    ...(url.searchParams.has('download') ? { 'content-disposition': `attachment; filename="${movie.name}"` } : {}),
  };
  const asked = request.headers.get('range');
  const ranges = asked === null ? null : parseRange(size, asked, { combine: true });
  if (ranges === -1) return new Response(null, { status: 416, headers: { ...headers, 'content-range': `bytes */${size}` } });
  // What is no range of bytes is not followed, and several parts at a time are answered with all (RFC 9110, section 14.2).
  const one = Array.isArray(ranges) && ranges.type === 'bytes' && ranges.length === 1 ? ranges[0]! : null;
  const [start, end] = one ? [one.start, one.end] : [0, size - 1];
  const body = size === 0 ? null : (Readable.toWeb(createReadStream(movie.path, { start, end })) as ReadableStream);
  return new Response(body, {
    status: one ? 206 : 200,
    headers: { ...headers, 'content-length': String(size === 0 ? 0 : end - start + 1), ...(one ? { 'content-range': `bytes ${start}-${end}/${size}` } : {}) },
  });
};
