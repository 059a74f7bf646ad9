import { DENOISED_SOURCE, isRendered } from '../../brief/index.ts';
import type { FindingCollector } from '../findings.ts';
import type { ListedFile } from '../listing.ts';
import type { SeenPass } from './seen-pass.ts';

/**
 * Frames without their noise that were made of another file than their original is now: it was rendered again, or changed,
 * since. Their headers say which it was.
 *
 * @param contentOf a checksum of a file's content; null where it is not known
 */
export function findOutdatedFrames(collector: FindingCollector, passes: readonly SeenPass[], contentOf: (file: ListedFile) => string | null): void {
  for (const pass of passes) {
    if (isRendered(pass.ordered.pass) || !pass.ownsFiles) continue;
    const originals = passes.find(({ name }) => name === pass.ordered.pass.denoisedFrom);
    const contents = new Map(originals?.frames.map(({ frame, file }) => [frame, { file, content: contentOf(file) }]));
    for (const { frame, file, header } of pass.frames) {
      const [source, original] = [header.metadata[DENOISED_SOURCE], contents.get(frame)];
      if (source === undefined || !original || original.content === null || original.content === source) continue;
      collector.add('outdated-frame', pass.name, {
        frame,
        file: file.path,
        detail: originals!.name,
        evidence: `Made of another ${original.file.path} than is there now.`,
        beside: original.file.path,
      });
    }
  }
}
