import { shotNumber, told } from '$lib/server/errors';
import { services } from '$lib/server/services';
import { loadShotState } from '$lib/server/shot-state';
import type { LayoutServerLoad } from './$types';

export const load: LayoutServerLoad = ({ params }) => told(async () => ({ state: await loadShotState(services().database, shotNumber(params.shot)) }));
