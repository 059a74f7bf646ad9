import { MintError, type Report } from '@mint-tally/core';
import { writePdfReport } from '@mint-tally/engine';
import sharp from 'sharp';
import { formatMoment } from '$lib/text/format';
import { readStillOfFrame } from './frames';

/** A report as PDF, with the pictures of its findings. */
export function reportAsPdf(shotId: number, report: Report): Promise<Buffer> {
  const pictureOf = async (finding: number) => {
    const { picture } = report.findings[finding]!;
    if (picture === null) return null;
    try {
      // Twice what 92 points are at 150 to the inch.
      return await sharp(await readStillOfFrame(shotId, picture.pass, picture.frame))
        .resize({ width: 384 })
        .jpeg({ quality: 85 })
        .toBuffer();
    } catch (thrown) {
      // A broken frame has none, and is told all the same.
      if (thrown instanceof MintError) return null;
      throw thrown;
    }
  };
  return writePdfReport(report, pictureOf, formatMoment);
}
