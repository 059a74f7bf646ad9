import { operations } from '$lib/api/operations';
import { serve } from '$lib/server/api';
import { readStillOfFrame } from '$lib/server/frames';

export const GET = serve(
  operations.readStill,
  async ({ shot, query: { pass, frame } }) => new Response(await readStillOfFrame(shot, pass, frame), { headers: { 'content-type': 'image/webp' } }),
);
