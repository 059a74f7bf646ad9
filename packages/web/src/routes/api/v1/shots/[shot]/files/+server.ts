import { operations } from '$lib/api/operations';
import { serve } from '$lib/server/api';
import { selectRows } from '$lib/server/file-rows';

export const GET = serve(operations.listFiles, async ({ shot, query }) => ({ ...(await selectRows(shot, query)), from: query.from }));
