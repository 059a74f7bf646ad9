import { parseBrief, tally, assignFiles, makeFileTable, workOutOrder, type Brief, type FileFacts, type ListedFile } from '@mint-tally/core';
import { createShot, ensureProject, saveBrief, saveFileFacts, saveFileTable, saveTally, type Database } from '@mint-tally/store';

/** Passes of a large shot, as a film's lighting department orders them. */
const PASSES = ['beauty', 'depth', 'normal', 'motion', 'albedo', 'occlusion', 'id', ...Array.from({ length: 13 }, (_, i) => `light${i + 1}`)];
const FIRST = 1001;
const WRITTEN = 1_700_000_000_000;

/** What a full look keeps of a frame of this pass: as much as of a real one. */
function factsOf(pass: string, frame: number): FileFacts {
  const channels = pass === 'depth' ? ['Z'] : ['R', 'G', 'B', 'A'];
  return {
    edition: 3,
    level: 'full',
    problem: null,
    header: {
      format: 'EXR',
      width: 1920,
      height: 1080,
      pixelAspect: 1,
      channels: channels.map((name) => ({ name, depth: pass === 'depth' ? 'float' : 'half' })),
      namedChannels: true,
      compression: 'zip',
      dataWindow: [0, 0, 1919, 1079],
      displayWindow: [0, 0, 1919, 1079],
      alphaKind: null,
      metadata: {
        hostComputer: ['bowline', 'reef', 'sheetbend', 'clove'][frame % 4]!,
        samples: 256,
        camera: 'keeper',
        software: 'a renderer',
        renderTime: 61.25,
      },
    },
    trailingBytes: 0,
    notExamined: null,
    pixels: null,
    holes: [],
  };
}

function briefOf(shot: string, last: number, passes: readonly string[]): Brief {
  return parseBrief({
    shot,
    range: `${FIRST}-${last}`,
    fps: '24',
    resolution: [1920, 1080],
    passes: passes.map((name) => ({ name, pattern: `${name}/${shot}_${name}.####.exr`, compression: ['zip'] })),
  });
}

/**
 * Puts a shot into the database as if it had been counted: some frames missing, some cut short, the rest
 * sound. No file is made; pages read what is known of files, not files.
 *
 * @returns its number
 */
export async function addShot(database: Database, name: string, frames: number, passes = PASSES): Promise<number> {
  const project = await ensureProject(database, 'Saltglass', 'bench');
  const shotId = await createShot(database, { projectId: project.id, name, note: 'measured', root: 'demo', folder: name }, 'bench');
  const last = FIRST + frames - 1;
  const brief = briefOf(name, last, passes);
  const saved = await database.transaction((inside) => saveBrief(inside, shotId, brief, 'bench'));
  const isMissing = (frame: number, pass: number) => frame % 997 === pass;
  const isCut = (frame: number, pass: number) => frame % 1499 === pass;
  const listing: ListedFile[] = [];
  const facts = new Map<string, FileFacts>();
  for (const [number, pass] of passes.entries()) {
    const found = [];
    for (let frame = FIRST; frame <= last; frame++) {
      if (isMissing(frame, number)) continue;
      const path = `${pass}/${name}_${pass}.${frame}.exr`;
      const cut = isCut(frame, number);
      const own = cut ? { ...factsOf(pass, frame), problem: { code: 'truncated' as const, message: 'The file ends after 900 bytes.' } } : factsOf(pass, frame);
      listing.push({ path, size: 12_000_000 + ((frame * 7919) % 100_000), modified: WRITTEN + frame * 1000, kind: 'file' });
      facts.set(path, own);
      found.push({ path, size: listing.at(-1)!.size, modified: listing.at(-1)!.modified, sha256: cut ? null : sha(frame * 31 + number), facts: own });
    }
    for (let start = 0; start < found.length; start += 2000) await saveFileFacts(database, shotId, found.slice(start, start + 2000));
  }
  const order = workOutOrder(brief);
  const assignment = assignFiles(order, listing, WRITTEN);
  const factsOfFile = (file: ListedFile) => facts.get(file.path) ?? null;
  const counted = tally({
    order,
    listing,
    assignment: assignFiles(order, listing, WRITTEN),
    level: 'headers',
    factsOf: (file) => facts.get(file.path) ?? null,
  });
  const table = makeFileTable(order, assignment, factsOfFile);
  await database.transaction(async (inside) => {
    const tallyId = await saveTally(
      inside,
      shotId,
      {
        briefId: saved.id,
        tally: { ...counted, level: 'full' },
        files: listing.length,
        bytes: listing.reduce((sum, { size }) => sum + size, 0),
        opened: listing.length,
        content: sha(shotId),
        listing: sha(shotId + 1),
        changes: null,
      },
      'bench',
    );
    await saveFileTable(inside, shotId, tallyId, table);
  });
  return shotId;
}

const sha = (value: number) => value.toString(16).padStart(64, '0');

/** Jobs that ended long ago, of all kinds and for all shots. */
export async function addOldJobs(database: Database, shots: readonly number[], count: number): Promise<void> {
  const kinds = ['count', 'count', 'count', 'package', 'measure'];
  for (let start = 0; start < count; start += 5000) {
    await database.insertMany(
      `INSERT INTO jobs (kind, subject, shot_id, payload, state, result, created_at, started_at, finished_at, actor) VALUES ?`,
      Array.from({ length: Math.min(5000, count - start) }, (_, i) => {
        const moment = new Date(Date.now() - (count - start - i) * 60_000);
        const kind = kinds[(start + i) % kinds.length]!;
        const payload =
          kind === 'package'
            ? { kind, root: 'packages', folder: `p${start + i}`, person: 'Ada' }
            : kind === 'measure'
              ? { kind, source: { from: 'folder', root: 'demo', folder: '' } }
              : { kind };
        return [
          kind,
          '',
          shots[(start + i) % shots.length]!,
          JSON.stringify(payload),
          i % 9 === 0 ? 'failed' : i % 7 === 0 ? 'cancelled' : 'done',
          null,
          moment,
          moment,
          moment,
          'bench',
        ];
      }),
    );
  }
}
