import { API_ROOT, openApiDocument } from '$lib/api/openapi';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = () => ({ document: JSON.stringify(openApiDocument()), root: API_ROOT });
