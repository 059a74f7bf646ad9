export type { Hole } from './holes.ts';
export { recogniseFormat } from './recognise.ts';
export { FACTS_EDITION, fileFactsSchema, inspectFrameFile, type FileFacts, type Inspection } from './inspect.ts';
export { memoryToInspect } from './memory.ts';
export { SharedParts } from './sharing.ts';
