import { json } from '@sveltejs/kit';
import { openApiDocument } from '$lib/api/openapi';
import type { RequestHandler } from './$types';

/** The document that describes the API. */
export const GET: RequestHandler = () => json(openApiDocument());
