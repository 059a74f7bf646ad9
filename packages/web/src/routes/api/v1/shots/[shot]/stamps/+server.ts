import { operations } from '$lib/api/operations';
import { serve } from '$lib/server/api';
import { stampVersion } from '$lib/server/stamping';
import { json } from '@sveltejs/kit';

export const POST = serve(operations.addStamp, async ({ shot, body }) => {
  const refused = await stampVersion(shot, body);
  return refused ? json({ message: refused.message, remedy: '', problems: [refused] }, { status: 409 }) : {};
});
