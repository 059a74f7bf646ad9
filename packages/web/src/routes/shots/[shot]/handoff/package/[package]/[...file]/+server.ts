import { shotNumber, told } from '$lib/server/errors';
import { openOfPackage } from '$lib/server/made-files';
import { sendFile } from '$lib/server/send-file';
import type { RequestHandler } from './$types';

/** A file of a package, or a part of it; the package itself where that is one file. */
export const GET: RequestHandler = async ({ params, request, url }) => {
  const { file, name } = await told(() => openOfPackage(shotNumber(params.shot), Number(params.package), params.file));
  return sendFile(file, name, request, url.searchParams.has('download'));
};
