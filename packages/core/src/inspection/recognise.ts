import { formatByExtension, FrameFileError, kindByContent, kindByExtension, NotDecodedError, type ByteSource, type FrameFormat } from '../formats/index.ts';

/**
 * The format of a file: what its name promises, if its first bytes keep it.
 *
 * @throws FrameFileError when it is empty, was never written or is of another kind, NotDecodedError for files that are not looked into
 */
export function recogniseFormat(source: ByteSource, name: string): FrameFormat {
  if (source.size === 0) throw new FrameFileError('empty-file', 'The file has no bytes.');
  const extension = name.slice(name.lastIndexOf('.') + 1);
  const promised = kindByExtension(extension);
  const firstBytes = source.read(0, Math.min(18, source.size));
  if (firstBytes.every((byte) => byte === 0) && isAllZero(source)) {
    throw new FrameFileError('unwritten-file', `All ${source.size} bytes are zero: the space was reserved, the picture never written.`);
  }
  const actual = kindByContent(firstBytes, promised);
  if (actual && promised && actual.name !== promised.name) {
    throw new FrameFileError('wrong-format', `The name says ${promised.name}, the content is ${actual.name}.`);
  }
  const format = formatByExtension(extension);
  if (!format) throw new NotDecodedError(`Files of type ${extension || 'unknown'} are counted by name; they are not looked into.`);
  if (!actual) {
    if (source.size < 16) throw new FrameFileError('truncated', `The file ends after ${source.size} bytes, inside its header.`);
    throw new FrameFileError('corrupt', `The file does not begin like a ${format.name} file.`);
  }
  return format;
}

function isAllZero(source: ByteSource): boolean {
  const step = 1 << 20;
  for (let offset = 0; offset < source.size; offset += step) {
    const piece = source.read(offset, Math.min(step, source.size - offset));
    for (let i = 0; i < piece.length; i++) if (piece[i] !== 0) return false;
  }
  return true;
}
