import { framePath, MintError, narrowBrief, splitIntoVolumes, workOutOrder, type Brief, type FrameSet, type Order } from '@mint-tally/core';
import type { CountedFile } from '../counting/count-folder.ts';
import { packageDocuments } from './documents.ts';
import type { BagPart } from './fill-bag.ts';

export interface PartsOptions {
  /** Of what is handed over. */
  readonly brief: Brief;
  /** What stands for an ordered frame of the whole shot. */
  readonly counted: readonly CountedFile[];
  /** Whether all of the shot is handed over: then what bears another name than the ordered one, and was waived, goes along. */
  readonly isWhole: boolean;
  /** Bytes of a volume at most; null for one bag. */
  readonly volumeSize: number | null;
  /** Documents beside those that say what the frames are. */
  readonly documents: Readonly<Record<string, unknown>>;
  readonly info: BagPart['info'];
  /** Names what the volumes belong to. */
  readonly group: string;
}

/** The bags of a package: one, or volumes that are each complete by themselves. */
export function packageParts({ brief, counted, isWhole, volumeSize, documents, info, group }: PartsOptions): BagPart[] {
  const order = workOutOrder(brief);
  const ordered = namesOf(order);
  const sizes = new Map(counted.map((file) => [file.path, file.size]));
  const volumes: (FrameSet | null)[] = volumeSize === null ? [null] : splitIntoVolumes(order, (file) => sizes.get(file) ?? 0, volumeSize);
  const isSplit = volumes.length > 1;
  const parts = volumes.map((frames, i): BagPart => {
    const own = isSplit ? narrowBrief(brief, null, frames) : brief;
    const ownOrder = workOutOrder(own);
    const named = namesOf(ownOrder);
    const files = counted.filter(({ path: file }) => named.has(file) || (isWhole && i === 0 && !ordered.has(file)));
    return {
      files,
      documents: { ...packageDocuments(own, ownOrder, files), ...documents },
      info: [
        ...info,
        // RFC 8493, section 2.2.2: these two say that a bag is one of several.
        ...(isSplit ? [['Bag-Group-Identifier', group] as const, ['Bag-Count', `${i + 1} of ${volumes.length}`] as const] : []),
      ],
    };
  });
  if (parts.every(({ files }) => files.length === 0))
    throw new MintError('nothing-chosen', 'None of the frames that were chosen is there.', { remedy: 'Choose other passes or frames.' });
  return parts;
}

/** The names of all ordered files. */
const namesOf = ({ passes }: Order) => new Set(passes.flatMap(({ pattern, frames }) => [...frames].map((frame) => framePath(pattern, frame))));

/** Checksums of the frames that an order names, by their paths. */
export function holdsOf(brief: Brief, counted: readonly CountedFile[]): Map<string, string> {
  const named = namesOf(workOutOrder(brief));
  return new Map(counted.flatMap(({ path, sha256 }) => (sha256 !== null && named.has(path) ? [[path, sha256] as const] : [])));
}
