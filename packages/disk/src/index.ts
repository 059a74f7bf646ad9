export { accessError, FileAccessError, isInside, joinInside } from './paths.ts';
export { hashOpen } from './hashing.ts';
export { HeldFolder } from './held-folder.ts';
export { piecesOf } from './pieces.ts';
export { copyInto, moveInto, openAnew, replaceWhole, writeWhole } from './writing.ts';
