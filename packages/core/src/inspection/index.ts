export { FACTS_EDITION, fileFactsSchema, inspectFrameFile, type FileFacts, type Inspection } from './inspect.ts';
