import type { Order } from '../brief/index.ts';
import { lookAtPaths, unsafeNameReason } from '../naming/index.ts';
import type { Assignment, Claim } from './assign.ts';
import type { FindingCollector } from './findings.ts';
import type { ListedFile } from './listing.ts';

/** Names that will not travel to another system, and names that differ from another only in case. */
export function addUnsafeNames(collector: FindingCollector, order: Order, listing: readonly ListedFile[], assignment: Assignment): void {
  const unsafe = findUnsafe(listing, assignment);
  if (unsafe.size === 0) return;
  const claimed = new Map<string, { claim: Claim; alone: boolean }>();
  for (const claims of assignment.claims) {
    for (const list of claims.values()) for (const claim of list) claimed.set(claim.file.path, { claim, alone: list.length === 1 });
  }
  for (const [path, reason] of unsafe) {
    const entry = claimed.get(path);
    // Two files of one frame are told as such.
    if (reason === null && entry && !entry.alone) continue;
    const pass = entry ? order.passes[entry.claim.pass]!.pass.name : null;
    collector.add('unsafe-name', pass, { frame: entry?.claim.frame, file: path, detail: reason ?? 'another name differs only in case' });
  }
}

/**
 * Paths with the reason against each; null where another differs only in case. Files that are named
 * as ordered differ in their digits alone, so one of each pass is looked at for all: in a shot that
 * is as it should be hardly a name needs a look.
 */
function findUnsafe(listing: readonly ListedFile[], assignment: Assignment): Map<string, string | null> {
  const { asOrdered, others } = splitByName(assignment);
  const samples = [...asOrdered.values()].map((alike) => alike[0]!);
  const paths = [...samples, ...others];
  const { odd, capitals } = lookAtPaths(paths);
  const unsafe = new Map<string, string | null>();
  const groups = [...asOrdered.values()];
  for (const index of odd) {
    const reason = unsafeReasonOfPath(paths[index]!);
    if (reason !== null) for (const path of groups[index] ?? [paths[index]!]) unsafe.set(path, reason);
  }
  // Without a capital anywhere no two names differ only in case.
  if (capitals.length > 0) {
    const all = listing.map(({ path }) => path);
    for (const path of findCaseTwins(lookAtPaths(all).capitals, all)) if (!unsafe.has(path)) unsafe.set(path, null);
  }
  return unsafe;
}

/** Paths named as a pass orders them, by pass, and all the others. */
function splitByName(assignment: Assignment): { asOrdered: Map<number, string[]>; others: string[] } {
  const asOrdered = new Map<number, string[]>();
  const others: string[] = [];
  const sort = ({ file, pass, relation }: Claim) => {
    const group = asOrdered.get(pass);
    if (relation !== 'exact') others.push(file.path);
    else if (group) group.push(file.path);
    else asOrdered.set(pass, [file.path]);
  };
  for (const claims of assignment.claims) for (const list of claims.values()) list.forEach(sort);
  assignment.unexpected.forEach(sort);
  for (const { file } of [...assignment.stillWriting, ...assignment.strays.map((file) => ({ file }))]) others.push(file.path);
  for (const { files } of assignment.unplanned) for (const { path } of files) others.push(path);
  return { asOrdered, others };
}

/**
 * Paths that are another's in other case: all but the first of each. Where hardly anything has
 * capitals, only what has can be a twin, or have one.
 */
function findCaseTwins(capitals: readonly number[], paths: readonly string[]): string[] {
  const lowered = new Set(capitals.map((index) => paths[index]!.toLowerCase()));
  const first = new Set<string>();
  const twins: string[] = [];
  for (const path of paths) {
    const lower = path.toLowerCase();
    if (!lowered.has(lower)) continue;
    if (first.has(lower)) twins.push(path);
    else first.add(lower);
  }
  return twins;
}

function unsafeReasonOfPath(path: string): string | null {
  for (const part of path.split('/')) {
    const reason = unsafeNameReason(part);
    if (reason !== null) return reason;
  }
  return null;
}
