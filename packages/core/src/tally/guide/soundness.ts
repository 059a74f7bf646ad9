import { guide, type GuideOf } from './entry.ts';

/** What is said of whether a file is whole. */
export const soundnessGuide: GuideOf<'soundness'> = {
  'empty-file': guide('The file has no bytes.', 'It is a hole that looks like a frame in a listing.', 'Render the frame again.'),
  'unwritten-file': guide(
    'The file has its size, and all of its bytes are zero.',
    'The space was reserved and the picture never written; it looks whole until it is opened.',
    'Render or copy the frame again.',
  ),
  truncated: guide(
    'The file ends before its picture does: fewer bytes than header, chunk tables or closing marker ask for, or a chunk table that was never filled.',
    'It opens half, or not at all, and half a picture is easily overlooked.',
    'Render or copy the frame again. Look for a full disk at that hour.',
  ),
  corrupt: guide(
    'Checksums do not match, packed pixels do not unpack, or the header says what cannot be.',
    'It shows wrong pixels, or takes the importer down.',
    'Render or copy the frame again. A copy that damaged one file may have damaged others.',
  ),
  'wrong-format': guide(
    'The content is not what the extension says, or the extension is not that which was ordered.',
    'Importers go by the name, and fail.',
    'Render or convert the frame in the ordered format.',
    'passes[].pattern',
  ),
  'trailing-data': guide(
    'Bytes stand behind the end of the picture.',
    'Mostly harmless; at times a longer old file that was written over.',
    'Render it again where it matters.',
  ),
  unreadable: guide(
    'The file or folder cannot be opened or read, tried more than once.',
    'Nobody knows whether it is there.',
    'Mend the permission, the link or the disk, and count again.',
  ),
  'still-writing': guide(
    'The file changed while it was read, or a fresh leftover of writing stands where the frame should be.',
    'Judging it now would judge half a file.',
    'Count again in a while.',
  ),
  'not-examined': guide(
    'The file is whole by its structure, but its pixels are of a kind that is not decoded here: deep pixels, arithmetic coding, rare samples.',
    'Nothing is known to be wrong; the pixels were not looked at.',
    'Open it in the program that will use it.',
  ),
};
