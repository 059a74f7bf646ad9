import { createHash } from 'node:crypto';
import { closeSync } from 'node:fs';
import { BAG_DECLARATION, payloadOxum, writeBagInfo, writeManifest } from '@mint-tally/core';
import type { CountedFile } from '../counting/count-folder.ts';
import { openInside } from '../files/roots.ts';
import { PackageError } from './errors.ts';
import type { BagSink } from './sinks.ts';
import type { ExtraSum, FileSums } from './sums.ts';

/** What goes into one bag. */
export interface BagPart {
  readonly files: readonly CountedFile[];
  /** Written beside the frames in `data/`: texts as they are, anything else as JSON. */
  readonly documents: Readonly<Record<string, unknown>>;
  readonly info: readonly (readonly [label: string, value: string])[];
}

export interface FilledBag {
  readonly files: number;
  readonly bytes: number;
  readonly manifestSha256: string;
}

export const MANIFEST = 'manifest-sha256.txt';
/** Not a checksum that BagIt knows: a list of its own, in the manifest's form. */
const QUICK_LIST = 'xxh64.txt';

type Entry = FileSums & { readonly path: string; readonly size: number };

/**
 * Fills a bag (RFC 8493): the files, each held against its checksum from the count, documents beside them, manifests, declaration.
 *
 * @param source real path of the folder that the files are in
 * @param onFile told of the bytes of each file that is there
 * @returns null when it was stopped
 * @throws PackageError, BagError, FileAccessError
 */
export async function fillBag(
  sink: BagSink,
  part: BagPart,
  source: string,
  sums: readonly ExtraSum[],
  stopped: () => boolean,
  onFile: (bytes: number) => void,
): Promise<FilledBag | null> {
  const payload: Entry[] = [];
  const rest = part.files[Symbol.iterator]();
  const lane = async () => {
    for (let next = rest.next(); !next.done && !stopped(); next = rest.next()) {
      const file = next.value;
      payload.push({ path: `data/${file.path}`, size: file.size, ...(await takeFile(sink, source, file)) });
      onFile(file.size);
    }
  };
  const lanes = await Promise.allSettled(Array.from({ length: sink.lanes }, lane));
  const failed = lanes.find((result) => result.status === 'rejected');
  if (failed) throw failed.reason;
  if (payload.length < part.files.length || stopped()) return null;
  for (const [name, value] of Object.entries(part.documents)) {
    const text = typeof value === 'string' ? value : `${JSON.stringify(value, null, 2)}\n`;
    await sink.write(`data/${name}`, text);
    payload.push({ path: `data/${name}`, size: Buffer.byteLength(text), ...sumsOfText(text, sums) });
  }
  const filled = await describe(sink, part, payload, sums);
  await sink.finish();
  return filled;
}

async function takeFile(sink: BagSink, source: string, file: CountedFile): Promise<FileSums> {
  const opened = openInside(source, file.path);
  try {
    // What has another length by now cannot be what was counted; a tar's header would even be wrong of it.
    const sums = opened.stats.size === file.size ? await sink.take(`data/${file.path}`, opened, file.sha256) : null;
    if (sums === null || (file.sha256 !== null && sums.sha256 !== file.sha256))
      throw new PackageError(
        'changed-since-count',
        `${file.path} changed after it was counted.`,
        file.path,
        'Wait until nothing writes to the folder, then write the package again.',
      );
    return sums;
  } finally {
    closeSync(opened.descriptor);
  }
}

/** Quick sums of a document are not worth waiting for: a list in that form leaves documents out. */
function sumsOfText(text: string, sums: readonly ExtraSum[]): FileSums {
  const by = (algorithm: string) => createHash(algorithm).update(text).digest('hex');
  return { sha256: by('sha256'), ...(sums.includes('sha512') ? { sha512: by('sha512') } : {}) };
}

/** Writes the manifests and the declaration around the payload. */
async function describe(sink: BagSink, part: BagPart, payload: readonly Entry[], sums: readonly ExtraSum[]): Promise<FilledBag> {
  const sizes = payload.map(({ size }) => size);
  const manifest = writeManifest(payload);
  const listBy = (sum: ExtraSum) => writeManifest(payload.flatMap(({ path, [sum]: sha256 }) => (sha256 === undefined ? [] : [{ path, sha256 }])));
  const tags: [name: string, text: string][] = [
    ['bagit.txt', BAG_DECLARATION],
    ['bag-info.txt', writeBagInfo([...part.info, ['Payload-Oxum', payloadOxum(sizes)]])],
    [MANIFEST, manifest],
    ...(sums.includes('sha512') ? [['manifest-sha512.txt', listBy('sha512')] as [string, string]] : []),
    ...(sums.includes('xxh64') ? [[QUICK_LIST, listBy('xxh64')] as [string, string]] : []),
  ];
  for (const [name, text] of tags) await sink.write(name, text);
  await sink.write('tagmanifest-sha256.txt', writeManifest(tags.map(([path, text]) => ({ path, sha256: createHash('sha256').update(text).digest('hex') }))));
  return { files: payload.length, bytes: sizes.reduce((sum, size) => sum + size, 0), manifestSha256: createHash('sha256').update(manifest).digest('hex') };
}
