import { told } from '$lib/server/errors';
import { makeReport } from '$lib/server/report';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ parent }) => {
  const { state, project } = await parent();
  return told(async () => ({ report: await makeReport(state, project.name, new Date()) }));
};
