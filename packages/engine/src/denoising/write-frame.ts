import { rm } from 'node:fs/promises';
import path from 'node:path';
import zlib from 'node:zlib';
import { cropFrame, DENOISED_SOURCE, encodeExr, halfToFloat, memorySource, rewriteExr, type EncoderTools, type Plane } from '@mint-tally/core';
import { accessError, moveInto, writeWhole, type HeldFolder } from '@mint-tally/disk';
import { codecTools } from '../inspection/codec-tools.ts';
import { withFile } from '../inspection/inspect-file.ts';
import { contentOf } from './already-there.ts';
import type { FilteredPicture, WrittenPass } from './filter-one.ts';
import type { DenoiseTask, FileToWrite } from './finish-one.ts';
import { cutOut } from './part.ts';

/** Among the differences that EXR packs, runs are nearly all that repeats: a third of the time of looking for more, and hardly larger. */
const QUICKLY: EncoderTools = { ...codecTools, deflate: (data) => zlib.deflateSync(data, { strategy: zlib.constants.Z_RLE }) };

/** A pass with the colours that it gets. */
export interface PassToWrite extends WrittenPass {
  readonly colours: readonly Float32Array[];
}

/**
 * Writes a file as its original is, with other colours.
 *
 * @param passes that live in it
 * @throws FileAccessError, NotRewrittenError
 */
export async function writeDenoised(
  { folder: shot }: Pick<DenoiseTask, 'folder'>,
  { inner, width }: Pick<FilteredPicture, 'inner' | 'width'>,
  passes: readonly PassToWrite[],
  { source, name, notes }: FileToWrite,
  folder: HeldFolder,
): Promise<void> {
  const changed = new Map<string, Float32Array>();
  for (const { channels, colours, holes, decoded } of passes) {
    channels.forEach((channel, c) => {
      const plane = decoded.planes.find((one) => one.channel === channel)!;
      if (holes) keepHoles(colours[c]!, plane, holes);
      changed.set(channel, inner ? cutOut(colours[c]!, width, inner) : colours[c]!);
    });
  }
  const { decoded } = passes[0]!;
  const frame = inner ? cropFrame(decoded, inner) : decoded;
  const bytes = withFile(shot, source, (file) => {
    const original = file.read(0, file.size);
    return rewriteExr(memorySource(original), frame, changed, { ...notes, [DENOISED_SOURCE]: contentOf(original) }, QUICKLY);
  });
  await writeUnder(folder, name, bytes);
}

/** Writes how much of its neighbours each pixel was not given, since they show something else: 0 nothing, 1 all of them. */
export async function writeGhosts(
  { notes }: DenoiseTask,
  { decoded, inner, width }: FilteredPicture,
  refused: Float32Array,
  folder: HeldFolder,
  name: string,
): Promise<void> {
  const { header } = inner ? cropFrame(decoded, inner) : decoded;
  const { dataWindow, displayWindow, pixelAspect } = header;
  await writeUnder(
    folder,
    name,
    encodeExr(
      {
        dataWindow: dataWindow ?? [0, 0, header.width - 1, header.height - 1],
        displayWindow: displayWindow ?? [0, 0, header.width - 1, header.height - 1],
        pixelAspect: pixelAspect ?? 1,
        compression: 'zip',
        channels: [{ name: 'Y', type: 'float', data: inner ? cutOut(refused, width, inner) : refused }],
        metadata: notes,
      },
      QUICKLY,
    ),
  );
}

/** Writes a file under another name, and gives it its own once it is whole. */
async function writeUnder(folder: HeldFolder, name: string, bytes: Uint8Array): Promise<void> {
  const unfinished = `.${name}.unfinished`;
  await rm(folder.at(unfinished), { force: true }).catch((thrown: unknown) => {
    throw accessError(thrown, path.join(folder.path, unfinished));
  });
  try {
    await writeWhole(folder, unfinished, bytes);
    await moveInto(folder, unfinished, folder, name);
  } catch (thrown) {
    // Where the disk is full, what was begun takes room that others need.
    await rm(folder.at(unfinished), { force: true }).catch(() => undefined);
    throw thrown;
  }
}

/** What is no number in the file is none in what is written either: filling it would hide it. */
function keepHoles(plane: Float32Array, { type, data, offset, stride }: Plane, holes: Uint8Array): void {
  for (let i = 0; i < plane.length; i++) if (holes[i] !== 0) plane[i] = type === 'half' ? halfToFloat(data[offset + i * stride]!) : data[offset + i * stride]!;
}
