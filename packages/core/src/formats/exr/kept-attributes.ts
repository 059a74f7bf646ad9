import type { ExrAttribute, ExrPart } from './header.ts';

/** What a header says of how its pixels are kept, and what would be wrong of others. */
const OF_STORAGE: ReadonlySet<string> = new Set([
  ...['channels', 'compression', 'dataWindow', 'displayWindow', 'lineOrder', 'pixelAspectRatio', 'tiles', 'chunkCount', 'type', 'name', 'version'],
  ...['preview', 'dwaCompressionLevel', 'maxSamplesPerPixel'],
]);

/** Whether an attribute of that name says how pixels are kept, or stands in every header. */
export const isStorageAttribute = (name: string) => OF_STORAGE.has(name) || name.startsWith('screenWindow') || name === 'pixelAspectRatio';

/** What a part's header says that holds for its picture however it is kept. */
export function keptAttributes({ attributes }: ExrPart): Map<string, ExrAttribute> {
  return new Map([...attributes].filter(([name]) => !OF_STORAGE.has(name)));
}
