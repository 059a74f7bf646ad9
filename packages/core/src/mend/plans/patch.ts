import { claimForMerge, type MergeStep } from '../../batch/index.ts';
import type { Order } from '../../brief/index.ts';
import type { Assignment, Finding, ListedFile } from '../../tally/index.ts';
import type { MendConflict, MendPlan, MendStep } from '../steps.ts';
import { isAmong } from './wanted.ts';

/** A file of another folder that could stand for a frame of a pass. */
export interface PatchFile {
  readonly pass: string;
  /** Place of the pass that owns the files. */
  readonly owner: number;
  readonly frame: number;
  /** Where it would stand. */
  readonly target: string;
  /** Of the other folder. */
  readonly file: ListedFile;
}

/** Which frames are wanted. @param isWanted of the pass that owns the files, by its place */
export function filesForPatch(
  order: Order,
  files: readonly ListedFile[],
  passes: readonly string[],
  isWanted: (owner: number, frame: number) => boolean,
  now: number,
): { found: PatchFile[]; conflicts: MendConflict[] } {
  const { claims } = claimForMerge(
    order,
    [
      { name: '', files: [] },
      { name: 'patch', files },
    ],
    now,
  );
  const byPath = new Map(files.map((file) => [file.path, file]));
  const ownerOf = new Map(order.passes.map(({ pass }, i) => [pass.name, order.passes[i]!.owner]));
  const found: PatchFile[] = [];
  const conflicts: MendConflict[] = [];
  for (const { pass, frame, target, candidates } of claims) {
    const owner = ownerOf.get(pass)!;
    if (!isAmong(passes, order, owner) || !isWanted(owner, frame)) continue;
    if (candidates.length > 1) {
      conflicts.push({ files: candidates.map(({ path }) => path), message: `${candidates.length} files there stand for frame ${frame} of ${pass}.` });
    } else found.push({ pass, owner, frame, target, file: byPath.get(candidates[0]!.path)! });
  }
  return { found, conflicts };
}

/** The shot's files as they would be listed with a patch in place of what stands there now. */
export function listingWithPatch(listing: readonly ListedFile[], { claims }: Assignment, patch: readonly PatchFile[]): ListedFile[] {
  const gone = new Set(patch.flatMap(({ owner, frame }) => (claims[owner]!.get(frame) ?? []).map(({ file }) => file.path)));
  return [...listing.filter(({ path }) => !gone.has(path)), ...patch.map(({ target, file }) => ({ ...file, path: target }))];
}

/** What is told of a frame of a patch before it is applied. */
export interface PatchWord {
  readonly pass: string;
  readonly frame: number;
  readonly message: string;
}

/** Findings that say of a frame that it is of another camera or version: the right one is asked for. */
const isOfAnother = ({ code, detail }: Finding) => code === 'metadata-drift' && /^(camera|version) /.test(detail);

/**
 * Which files of a patch are not taken, since they would not be sound, of the right kind, or of the right camera and version, as
 * the count would find them in their place; and what else it would say of those that are.
 *
 * @param after findings of the shot with the patch in its place
 * @param before findings of the shot as it is
 */
export function judgePatch(
  order: Order,
  patch: readonly PatchFile[],
  after: readonly Finding[],
  before: readonly Finding[],
): { refused: Map<PatchFile, string>; words: PatchWord[] } {
  const refused = new Map<PatchFile, string>();
  const words: PatchWord[] = [];
  const ownerOf = new Map(order.passes.map(({ pass, owner }) => [pass.name, owner]));
  const said = new Set(before.flatMap((finding) => [...finding.frames].map((frame) => saidKey(finding, frame))));
  const byPlace = new Map(patch.map((file) => [`${file.owner} ${file.frame}`, file]));
  for (const finding of after) {
    if (finding.pass === null || finding.family === 'count' || finding.severity === 'note') continue;
    const owner = ownerOf.get(finding.pass);
    for (const frame of finding.frames) {
      const file = byPlace.get(`${owner} ${frame}`);
      if (!file) continue;
      const message = finding.message;
      if (finding.severity === 'blocker' || isOfAnother(finding)) refused.set(file, refused.get(file) ?? message);
      else if (!said.has(saidKey(finding, frame))) words.push({ pass: finding.pass, frame, message });
    }
  }
  return { refused, words: words.filter(({ pass, frame }) => !refused.has(byPlace.get(`${ownerOf.get(pass)} ${frame}`)!)) };
}

const saidKey = ({ code, pass, detail }: Finding, frame: number) => `${code} ${pass} ${frame} ${detail}`;

/** Puts the files of a patch in place; what stands there is set aside. @param folder real path of the other folder, without a slash at its end */
export function planPatch({ claims }: Assignment, patch: readonly PatchFile[], folder: string): MendPlan {
  const steps = patch.flatMap(({ owner, frame, target, file }): MendStep[] => [
    ...(claims[owner]!.get(frame) ?? []).map(({ file: { path, size, modified } }): MendStep => ({
      ...{ action: 'set-aside', from: path, to: path, seen: { size, modified } },
      reason: `frame ${frame} is replaced`,
    })),
    {
      ...{ action: 'write', from: `${folder}/${file.path}`, to: target, seen: { size: file.size, modified: file.modified } },
      reason: `frame ${frame} from ${folder}`,
    },
  ]);
  return { steps, conflicts: [] };
}

/** What a merge does, as steps of a mend. @param folders real paths, by source: the shot's own first */
export function planMergeSteps(steps: readonly MergeStep[], way: 'copy' | 'move' | 'link', folders: readonly string[]): MendStep[] {
  return steps.flatMap(({ from, target, replaces, size, pass, frame }): MendStep[] => {
    if (from === null) return [];
    const comes: MendStep = {
      ...{ action: 'write', from: `${folders[from.source]!}/${from.path}`, to: target, way, seen: { size } },
      reason: `frame ${frame} of ${pass} from ${folders[from.source]!}`,
    };
    return replaces ? [{ action: 'set-aside', from: target, to: target, reason: `frame ${frame} of ${pass} is replaced` }, comes] : [comes];
  });
}
