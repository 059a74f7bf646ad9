import { shotNumber, told } from '$lib/server/errors';
import { openMade } from '$lib/server/made-files';
import { sendFile } from '$lib/server/send-file';
import type { RequestHandler } from './$types';

/** A contact sheet, or a part of its file. */
export const GET: RequestHandler = async ({ params, request, url }) => {
  const { file, name } = await told(() => openMade(shotNumber(params.shot), 'sheet', Number(params.sheet)));
  return sendFile(file, name, request, url.searchParams.has('download'));
};
