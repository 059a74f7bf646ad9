import type { ByteSource } from '../byte-source.ts';
import { FrameFileError } from '../errors.ts';
import type { Salvaged, SalvageTools } from '../frame.ts';
import { joinRectangles, NO_ROW, unlessDamaged, type Rectangle } from '../salvage.ts';
import { unpackBlock, unpackStart } from './blocks.ts';
import { blockPlace, decodeBlocks } from './decode.ts';
import type { TiffImage } from './header.ts';

/**
 * Decodes every strip or tile that is whole, and of one that the end of the file cuts what comes before. Where planes
 * lie apart, a block that lacks in one is outlined for all.
 *
 * @throws FrameFileError when there is nothing, NotDecodedError for what the decode cannot read either
 */
export function salvageTiff(source: ByteSource, image: TiffImage, tools: SalvageTools): Salvaged {
  const bytes = source.read(0, source.size);
  const { offsets, byteCounts } = image.blocks;
  const damage: Rectangle[] = [];
  let found = 0;
  const frame = decodeBlocks(source, image, (index) => {
    const [offset, length] = [offsets[index]!, byteCounts[index]!];
    const isWritten = offset > 0 && length > 0;
    const isCut = offset + length > bytes.length;
    const whole = isWritten && !isCut ? unlessDamaged(() => unpackBlock(bytes, image, index, tools)) : null;
    const start = isWritten && !whole ? unlessDamaged(() => unpackStart(bytes, image, index, tools)) : null;
    if (whole || (start && start.rows > 0)) found++;
    if (whole) return whole;
    const { left, top, across, down } = blockPlace(image, index);
    // What was changed, and not cut, may be wrong before that shows.
    const rows = start && isCut ? Math.min(start.rows, down) : 0;
    if (rows < down) damage.push([left, top + rows, across, down - rows]);
    return start?.samples ?? null;
  });
  if (found === 0) throw new FrameFileError('truncated', NO_ROW);
  return { frame, damage: joinRectangles(mergePlanes(damage)) };
}

/** Of the holes of several planes at one place the largest: each is what lacks below some row of its block. */
function mergePlanes(damage: readonly Rectangle[]): Rectangle[] {
  const byBlock = new Map<string, Rectangle>();
  for (const one of damage) {
    const key = `${one[0]} ${one[1] + one[3]}`;
    const before = byBlock.get(key);
    if (!before || before[3] < one[3]) byBlock.set(key, one);
  }
  return [...byBlock.values()];
}
