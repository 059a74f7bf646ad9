export { formatFrameNumber, formatPaddingToken, inferPadding, type Padding } from './padding.ts';
export {
  findFrame,
  formatNamePattern,
  framePath,
  isWrittenAsOrdered,
  matchFrameName,
  NamePatternError,
  parseNamePattern,
  type NamePattern,
} from './pattern.ts';
export { groupIntoSequences, type FoundSequence, type Grouping, type SequenceFile } from './sequences.ts';
export { extensionOf, relateNames, type NameRelation } from './nearness.ts';
export { baseName, lookAtPaths, unsafeNameReason } from './names.ts';
