import { operations } from '$lib/api/operations';
import { serve } from '$lib/server/api';
import { waive } from '$lib/server/shot-actions';
import { json } from '@sveltejs/kit';

export const POST = serve(operations.addWaivers, async ({ shot, body }) => {
  const givenUp = await waive(shot, body);
  if (givenUp === null) return {};
  return json({ message: 'That gives up frames.', remedy: 'Send it again with this list as givenUp, if that is meant.', givenUp }, { status: 409 });
});
