import { answered, shotNumber } from '$lib/server/errors';
import { readSoundTrack } from '$lib/server/sound-track';
import type { RequestHandler } from './$types';

/** The shot's sound track, whole. */
export const GET: RequestHandler = ({ params }) =>
  answered(async () => new Response(await readSoundTrack(shotNumber(params.shot)), { headers: { 'Content-Type': 'audio/wav', 'Cache-Control': 'no-cache' } }));
