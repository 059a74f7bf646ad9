import {
  findShot,
  listBriefs,
  listShots,
  listSpecifications,
  newestResult,
  renameShot,
  requestJob,
  saveBrief,
  ShotNameTakenError,
  type SavedBrief,
} from '@mint-tally/store';
import { MintError, parseFrameRange } from '@mint-tally/core';
import { fail } from '@sveltejs/kit';
import { LRUCache } from 'lru-cache';
import * as z from 'zod';
import { measureResultSchema, type Measuring } from '$lib/brief/measuring';
import { readBriefForm } from '$lib/server/brief-forms';
import { shotNumber, told } from '$lib/server/errors';
import { readPlace } from '$lib/server/folders';
import { meanBytes } from '$lib/server/file-tables';
import { actor, services } from '$lib/server/services';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ parent }) => {
  const { state } = await parent();
  return told(async () => {
    const { id, root, folder } = state.shot;
    const { database, config } = services();
    const [versions, place, bytes, specifications, shots, newest] = await Promise.all([
      readVersions(id, state.stateKey),
      readPlace(root, folder),
      meanBytes(id, state.stateKey),
      listSpecifications(database, state.shot.projectId),
      listShots(database, state.shot.projectId),
      newestResult(database, id, 'measure'),
    ]);
    const { frames } = parseFrameRange(state.brief.range);
    const measuring: Measuring = {
      shotId: id,
      services: config.renderServices.map(({ name }) => name),
      roots: config.roots.map(({ name, path }) => ({ name, path })),
      middleFrame: frames[Math.floor(frames.length / 2)] ?? null,
      newest: readMeasured(newest),
    };
    return {
      versions: versions.map(({ version, brief, actor: who, createdAt }) => ({ version, brief, who, createdAt })),
      place,
      meanBytes: bytes,
      specifications,
      measuring,
      others: shots.filter((shot) => shot.id !== id).map(({ id: number, name, note }) => ({ id: number, name, note })),
    };
  });
};

/** The versions of briefs that were looked at last, for as long as nothing of their shot changes. */
const kept = new LRUCache<string, Promise<SavedBrief[]>>({ max: 200 });

function readVersions(shotId: number, stateKey: string): Promise<SavedBrief[]> {
  const key = `${shotId} ${stateKey}`;
  const reading = kept.get(key) ?? listBriefs(services().database, shotId);
  kept.set(key, reading);
  reading.catch(() => kept.delete(key));
  return reading;
}

/** What was measured last; what another version wrote down and this one cannot read is as good as not there. */
function readMeasured(newest: Awaited<ReturnType<typeof newestResult>>): Measuring['newest'] {
  const parsed = measureResultSchema.safeParse(newest?.result);
  return newest && parsed.success ? { jobId: newest.jobId, result: parsed.data } : null;
}

export const actions: Actions = {
  /** Saves a new version of the brief and counts against it. */
  save: async ({ params, request }) => {
    const read = readBriefForm(await request.formData());
    if (!read.ok) return fail(400, { fields: read.fields });
    return told(async () => {
      const shotId = shotNumber(params.shot);
      try {
        const saved = await services().database.transaction(async (inside) => {
          await renameShot(inside, shotId, read.brief.shot, read.note);
          const version = await saveBrief(inside, shotId, read.brief, actor);
          await requestJob(inside, shotId, { kind: 'count' }, actor);
          return version;
        });
        return { version: saved.version };
      } catch (thrown) {
        if (thrown instanceof ShotNameTakenError) return fail(409, { fields: { shot: `${thrown.message} ${thrown.remedy}` } });
        throw thrown;
      }
    });
  },
  /** Saves what an earlier version said as a new one, and counts against it. */
  restore: async ({ params, request }) => {
    const version = z.coerce
      .number()
      .int()
      .positive()
      .safeParse((await request.formData()).get('version'));
    if (!version.success) return fail(400, { fields: { version: 'Choose a version.' } });
    return told(async () => {
      const shotId = shotNumber(params.shot);
      const earlier = (await listBriefs(services().database, shotId)).find((one) => one.version === version.data);
      if (!earlier) throw new MintError('not-found', `There is no version ${version.data} of this brief.`);
      const saved = await services().database.transaction(async (inside) => {
        const shot = await findShot(inside, shotId);
        // The shot keeps its name: the version may be from before it was renamed.
        const restored = await saveBrief(inside, shotId, shot ? { ...earlier.brief, shot: shot.name } : earlier.brief, actor);
        await requestJob(inside, shotId, { kind: 'count' }, actor);
        return restored;
      });
      return { version: saved.version };
    });
  },
};
