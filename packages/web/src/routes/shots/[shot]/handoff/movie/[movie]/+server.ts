import { shotNumber, told } from '$lib/server/errors';
import { openMade } from '$lib/server/made-files';
import { sendFile } from '$lib/server/send-file';
import type { RequestHandler } from './$types';

/** A review movie, or the part of it that a player asks for. */
export const GET: RequestHandler = async ({ params, request, url }) => {
  const { file, name } = await told(() => openMade(shotNumber(params.shot), 'movie', Number(params.movie)));
  return sendFile(file, name, request, url.searchParams.has('download'));
};
