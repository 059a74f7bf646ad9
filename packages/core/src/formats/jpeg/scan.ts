import { decodeScanBits, type ScanDamage } from '../../kernels/index.ts';
import { FrameFileError } from '../errors.ts';
import type { HuffmanTable } from './entropy.ts';
import type { JpegComponent, JpegImage } from './header.ts';

/** A component's coefficients: blocks of 64 in the order of their frequencies, row by row of blocks. */
export interface CoefficientPlane {
  readonly component: JpegComponent;
  /** Blocks that hold pixels, and blocks that are stored: whole units. */
  readonly blocksAcross: number;
  readonly blocksDown: number;
  readonly stride: number;
  readonly data: Int16Array;
}

/** What a scan header says (section B.2.3). */
export interface ScanHeader {
  readonly planes: readonly { plane: CoefficientPlane; dc: HuffmanTable | null; ac: HuffmanTable | null }[];
  readonly first: number;
  readonly last: number;
  /** Successive approximation: bits that came before, and the bit that this scan brings. */
  readonly high: number;
  readonly low: number;
  readonly restartInterval: number;
}

export function makePlanes(image: JpegImage): CoefficientPlane[] {
  const across = Math.max(...image.components.map((component) => component.across));
  const down = Math.max(...image.components.map((component) => component.down));
  const unitsAcross = Math.ceil(image.width / (8 * across));
  const unitsDown = Math.ceil(image.height / (8 * down));
  return image.components.map((component) => {
    const stride = unitsAcross * component.across;
    return {
      component,
      blocksAcross: Math.ceil(Math.ceil((image.width * component.across) / across) / 8),
      blocksDown: Math.ceil(Math.ceil((image.height * component.down) / down) / 8),
      stride,
      data: new Int16Array(stride * unitsDown * component.down * 64),
    };
  });
}

/**
 * Decodes one scan into the planes.
 *
 * @returns where the next marker stands
 * @throws FrameFileError
 */
export function decodeScan(bytes: Uint8Array, from: number, scan: ScanHeader, progressive: boolean): number {
  checkTables(scan, progressive);
  const units = countUnits(scan);
  const components = scan.planes.map(({ plane, dc, ac }) => ({ ...plane, across: plane.component.across, down: plane.component.down, dc, ac }));
  const { damage, position, unit, left } = decodeScanBits(bytes.subarray(from), { ...scan, components, progressive, units });
  const at = from + position;
  if (damage !== null) throw damageAt(damage, at, { unit, units, endsFile: at >= bytes.length - 1 });
  if (left > 0) throw new FrameFileError('corrupt', `${left} bytes of pixel data before byte ${at} belong to no block.`);
  return at;
}

/** A scan of the mean needs one table for it, unless it brings one bit more; one of a band needs the other; a sequential one both. */
function checkTables({ planes, first, high }: ScanHeader, progressive: boolean): void {
  const [needsDc, needsAc] = [!progressive || (first === 0 && high === 0), !progressive || first > 0];
  if (planes.some(({ dc, ac }) => (needsDc && dc === null) || (needsAc && ac === null))) {
    throw new FrameFileError('corrupt', 'A scan asks for a table of codes that is not there.');
  }
}

/** Blocks by themselves for one component, units of all for several (section A.2). */
function countUnits({ planes }: ScanHeader): number {
  const { plane } = planes[0]!;
  if (planes.length === 1) return plane.blocksAcross * plane.blocksDown;
  return (plane.stride / plane.component.across) * (plane.data.length / 64 / plane.stride / plane.component.down);
}

function damageAt(damage: ScanDamage, at: number, { unit, units, endsFile }: { unit: number; units: number; endsFile: boolean }): FrameFileError {
  switch (damage) {
    case 'no code':
      return new FrameFileError('corrupt', `The pixel data before byte ${at} holds a code that its table does not have.`);
    case 'impossible':
      return new FrameFileError('corrupt', `The pixel data before byte ${at} holds a value that no block has.`);
    case 'past end':
      return new FrameFileError(endsFile ? 'truncated' : 'corrupt', `The pixel data ends at byte ${at}, after ${unit} of ${units} blocks.`);
    case 'no restart':
      return new FrameFileError('corrupt', `There is no restart marker at byte ${at}, where one must come.`);
    case 'before restart':
      return new FrameFileError('corrupt', `Pixel data before byte ${at} belongs to no block.`);
  }
}
