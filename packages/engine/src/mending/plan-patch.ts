import {
  assignFiles,
  borderFrame,
  compareAtBorder,
  filesForPatch,
  FrameSet,
  judgePatch,
  listingWithPatch,
  luminanceOf,
  MintError,
  parseFrameRange,
  planPatch,
  recogniseFormat,
  tally,
  workOutOrder,
  type Assignment,
  type BorderFrame,
  type Brief,
  type FileFacts,
  type ListedFile,
  type MendPlan,
  type Order,
  type PatchFile,
  type PatchWord,
} from '@mint-tally/core';
import { listFolder } from '../files/list-folder.ts';
import { codecTools } from '../inspection/codec-tools.ts';
import { withFile } from '../inspection/inspect-file.ts';
import type { InspectionPool } from '../inspection/pool.ts';

/** A patch that is worked out. */
export interface PatchOptions {
  /** Real paths: of the shot, and of the folder that the patch comes from. */
  readonly folder: string;
  readonly from: string;
  readonly brief: Brief;
  /** Which frames, in range notation; empty for those that are missing or stopped. */
  readonly frames: string;
  readonly passes: readonly string[];
  readonly pool: InspectionPool;
  /** What is known of the shot's files from the last count, by path. */
  readonly known: ReadonlyMap<string, { readonly facts: FileFacts; readonly size: number; readonly modified: number }>;
  readonly now: number;
  readonly onProgress: (done: number, total: number) => void;
  readonly isStopped: () => boolean;
}

/** What a patch would do, with what is said of its frames. */
export interface PatchPlan extends MendPlan {
  /** Frames that are not taken, and why. */
  readonly refused: readonly PatchWord[];
  /** What is to be known of those that are. */
  readonly words: readonly PatchWord[];
  /** Files of the shot's folder. */
  readonly files: readonly ListedFile[];
}

/** Borders of a patch that are looked at; a patch of more single frames is no longer looked at one by one. */
const MOST_BORDERS = 24;

/**
 * Works out which frames of another folder come in place of which: only what would be sound, of the right kind and, as far as is
 * known, of the right camera and version. Where the patch meets the shot's own frames both are compared.
 *
 * @returns null when it was stopped
 * @throws FileAccessError
 */
export async function workOutPatch(options: PatchOptions): Promise<PatchPlan | null> {
  const { folder, from, brief, passes, pool, known, now } = options;
  if (from === folder)
    throw new MintError('same-folder', `${from} is the shot’s own folder.`, { subject: from, remedy: 'Choose the folder of the re-render.' });
  const order = workOutOrder(brief);
  const [own, other] = [await listFolder(folder, { stats: true }), await listFolder(from, { stats: true })];
  const assignment = assignFiles(order, own.files, now);
  const factsOf = (file: ListedFile) => known.get(file.path)?.facts ?? null;
  const before = tally({ order, listing: own.files, assignment, level: 'full', factsOf }).findings;
  const stopped = stoppedFrames(order, before);
  const named = options.frames === '' ? null : parseFrameRange(options.frames);
  const isWanted = (owner: number, frame: number) => (named ? named.has(frame) : stopped[owner]!.has(frame));
  const others = folder.startsWith(`${from}/`) ? other.files.filter((file) => !`${from}/${file.path}`.startsWith(`${folder}/`)) : other.files;
  const { found, conflicts } = filesForPatch(
    order,
    others.filter(({ kind }) => kind === 'file'),
    passes,
    isWanted,
    now,
  );
  const looked = await lookInto(pool, from, found, options);
  if (!looked) return null;
  const refused = new Map<PatchFile, string>();
  let [taken, words]: [PatchFile[], PatchWord[]] = [found, []];
  // What is left out leaves holes, beside which others are seen anew.
  for (let turn = 0; turn < 3 && taken.length > 0; turn++) {
    const listing = listingWithPatch(own.files, assignment, taken);
    const byTarget = new Map(taken.map((file) => [file.target, looked.get(file)!]));
    const judged = judgePatch(
      order,
      taken,
      tally({ order, listing, assignment: assignFiles(order, listing, now), level: 'full', factsOf: (file) => byTarget.get(file.path) ?? factsOf(file) })
        .findings,
      before,
    );
    for (const [file, why] of judged.refused) refused.set(file, why);
    words = judged.words;
    if (judged.refused.size === 0) break;
    taken = taken.filter((file) => !judged.refused.has(file));
  }
  words = [...words, ...compareBorders(order, assignment, taken, folder, from)];
  const plan = planPatch(assignment, taken, from);
  return {
    steps: plan.steps,
    conflicts,
    refused: [...refused].map(([{ pass, frame }, message]) => ({ pass, frame, message })),
    words,
    files: own.files,
  };
}

/** Frames that are missing or stop a handoff, by the pass that owns the files. */
function stoppedFrames(order: Order, findings: ReturnType<typeof tally>['findings']): FrameSet[] {
  const owners = new Map(order.passes.map(({ pass, owner }) => [pass.name, owner]));
  const stopped = order.passes.map(() => FrameSet.empty);
  for (const { severity, pass, frames } of findings) {
    const owner = pass === null ? undefined : owners.get(pass);
    if (severity === 'blocker' && owner !== undefined) stopped[owner] = stopped[owner]!.union(frames);
  }
  return stopped;
}

async function lookInto(
  pool: InspectionPool,
  from: string,
  found: readonly PatchFile[],
  { onProgress, isStopped }: PatchOptions,
): Promise<Map<PatchFile, FileFacts> | null> {
  const looked = new Map<PatchFile, FileFacts>();
  const byPath = new Map(found.map((file) => [file.file.path, file]));
  await pool.inspectAll(
    found.map(({ file }) => ({ folder: from, path: file.path, level: 'full' as const, proxies: null })),
    (task, { facts }) => {
      looked.set(byPath.get(task.path)!, facts);
      onProgress(looked.size, found.length);
    },
    isStopped,
  );
  return looked.size < found.length ? null : looked;
}

/** Compares the frames at the ends of a patch with those that stay beside them. */
function compareBorders(order: Order, { claims }: Assignment, taken: readonly PatchFile[], folder: string, from: string): PatchWord[] {
  const words: PatchWord[] = [];
  let left = MOST_BORDERS;
  order.passes.forEach(({ frames, owner, pass }, index) => {
    if (owner !== index) return;
    const own = new Map(taken.filter((file) => file.owner === index).map((file) => [file.frame, file]));
    const ordered = [...frames];
    const stays = (at: number) => {
      const frame = ordered[at];
      const claim = frame === undefined || own.has(frame) ? undefined : claims[index]!.get(frame)?.[0];
      return claim ? { frame: frame!, path: claim.file.path } : null;
    };
    ordered.forEach((frame, at) => {
      const file = own.get(frame);
      if (!file) return;
      for (const side of [-1, 1]) {
        const outer = stays(at + side);
        if (!outer || left-- <= 0) continue;
        const seen = look(from, file.file.path, frame, pass.channels);
        const beside = look(folder, outer.path, outer.frame, pass.channels);
        if (!seen || !beside) continue;
        const next = stays(at + 2 * side);
        const further = next && look(folder, next.path, next.frame, pass.channels);
        for (const message of compareAtBorder(seen, beside, further)) words.push({ pass: pass.name, frame, message });
      }
    });
  });
  return words;
}

/** Null where a file shows nothing that could be compared. */
function look(folder: string, file: string, frame: number, channels: readonly string[] | undefined): BorderFrame | null {
  try {
    return withFile(folder, file, (source) => {
      const open = recogniseFormat(source, file).open(source);
      return borderFrame(frame, luminanceOf(open.decode(codecTools).frame, channels ?? null), open.header.metadata);
    });
  } catch (thrown) {
    // A frame beside the patch that is damaged is the tally's to tell.
    if (thrown instanceof MintError) return null;
    throw thrown;
  }
}
