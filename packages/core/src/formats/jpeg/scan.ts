import type { ComponentShape, JpegPicture, ScanDamage } from '../../kernels/index.ts';
import { FrameFileError } from '../errors.ts';
import type { HuffmanTable } from './entropy.ts';
import type { JpegImage } from './header.ts';

/** What a scan header says (section B.2.3). */
export interface ScanHeader {
  /** `index` is the component's place in the frame header. */
  readonly components: readonly { index: number; dc: HuffmanTable | null; ac: HuffmanTable | null }[];
  readonly first: number;
  readonly last: number;
  /** Successive approximation: bits that came before, and the bit that this scan brings. */
  readonly high: number;
  readonly low: number;
  readonly restartInterval: number;
}

/** A scan that breaks off, with what was decoded of it before. */
export class BrokenScanError extends FrameFileError {
  /** @param units blocks, or units of all components, that came before the damage was seen */
  constructor(
    code: 'truncated' | 'corrupt',
    message: string,
    readonly units: number,
  ) {
    super(code, message);
  }
}

/** The blocks and samples of each component (section A.1.1 and A.2). */
export function shapesOf({ width, height, components }: JpegImage): ComponentShape[] {
  const across = Math.max(...components.map((component) => component.across));
  const down = Math.max(...components.map((component) => component.down));
  const unitsAcross = Math.ceil(width / (8 * across));
  const unitsDown = Math.ceil(height / (8 * down));
  return components.map((component) => {
    const samples = { width: Math.ceil((width * component.across) / across), height: Math.ceil((height * component.down) / down) };
    return {
      ...samples,
      across: component.across,
      down: component.down,
      blocksAcross: Math.ceil(samples.width / 8),
      blocksDown: Math.ceil(samples.height / 8),
      stride: unitsAcross * component.across,
      rows: unitsDown * component.down,
    };
  });
}

/**
 * Decodes one scan into the picture.
 *
 * @param fileSize bytes of the whole file
 * @param from where the scan's bits begin
 * @returns where the next marker stands
 * @throws FrameFileError
 */
export function decodeScan(
  picture: JpegPicture,
  shapes: readonly ComponentShape[],
  fileSize: number,
  from: number,
  scan: ScanHeader,
  progressive: boolean,
): number {
  checkTables(scan, progressive);
  const units = countUnits(scan, shapes);
  const { damage, position, unit, left } = picture.decodeScan(from, { ...scan, progressive, units });
  if (damage !== null) throw damageAt(damage, position, { unit, units, endsFile: position >= fileSize - 1 });
  if (left > 0) throw new FrameFileError('corrupt', `${left} bytes of pixel data before byte ${position} belong to no block.`);
  return position;
}

/** A scan of the mean needs one table for it, unless it brings one bit more; one of a band needs the other; a sequential one both. */
function checkTables({ components, first, high }: ScanHeader, progressive: boolean): void {
  const [needsDc, needsAc] = [!progressive || (first === 0 && high === 0), !progressive || first > 0];
  if (components.some(({ dc, ac }) => (needsDc && dc === null) || (needsAc && ac === null))) {
    throw new FrameFileError('corrupt', 'A scan asks for a table of codes that is not there.');
  }
}

/** Blocks by themselves for one component, units of all for several (section A.2). */
function countUnits({ components }: ScanHeader, shapes: readonly ComponentShape[]): number {
  const { blocksAcross, blocksDown, stride, rows, across, down } = shapes[components[0]!.index]!;
  return components.length === 1 ? blocksAcross * blocksDown : (stride / across) * (rows / down);
}

function damageAt(damage: ScanDamage, at: number, { unit, units, endsFile }: { unit: number; units: number; endsFile: boolean }): BrokenScanError {
  const broken = (message: string, code: 'truncated' | 'corrupt' = 'corrupt') => new BrokenScanError(code, message, unit);
  switch (damage) {
    case 'no code':
      return broken(`The pixel data before byte ${at} holds a code that its table does not have.`);
    case 'impossible':
      return broken(`The pixel data before byte ${at} holds a value that no block has.`);
    case 'past end':
      return broken(`The pixel data ends at byte ${at}, after ${unit} of ${units} blocks.`, endsFile ? 'truncated' : 'corrupt');
    case 'no restart':
      return broken(`There is no restart marker at byte ${at}, where one must come.`);
    case 'before restart':
      return broken(`Pixel data before byte ${at} belongs to no block.`);
  }
}
