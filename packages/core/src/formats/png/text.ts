import type { ByteSource } from '../byte-source.ts';
import type { PngChunk } from './header.ts';

/** Longer notes are nothing that anybody compares. */
const MAXIMUM_TEXT = 4096;
/** More notes than this are not kept. */
const MAXIMUM_NOTES = 100;

/**
 * Adds the note that a text chunk holds: tEXt, or iTXt that is not packed (sections 11.3.3.2 and
 * 11.3.3.4). Whatever else it is, or a note that is not well formed, is passed over: it does not
 * make the picture a worse one.
 */
export function addTextNote(notes: Record<string, string>, source: ByteSource, chunk: PngChunk): void {
  if ((chunk.type !== 'tEXt' && chunk.type !== 'iTXt') || chunk.length > MAXIMUM_TEXT || Object.keys(notes).length >= MAXIMUM_NOTES) return;
  const bytes = source.read(chunk.offset, chunk.length);
  const keyEnd = bytes.indexOf(0);
  // A keyword has 1 to 79 characters of Latin-1 (section 11.3.3.1).
  if (keyEnd < 1 || keyEnd > 79) return;
  const keyword = new TextDecoder('latin1').decode(bytes.subarray(0, keyEnd));
  if (chunk.type === 'tEXt') {
    notes[keyword] = new TextDecoder('latin1').decode(bytes.subarray(keyEnd + 1));
    return;
  }
  // Compression flag and method, then a language and a translated keyword, each ended by a zero.
  if (bytes[keyEnd + 1] !== 0) return;
  const languageEnd = bytes.indexOf(0, keyEnd + 3);
  const translatedEnd = languageEnd < 0 ? -1 : bytes.indexOf(0, languageEnd + 1);
  if (translatedEnd >= 0) notes[keyword] = new TextDecoder().decode(bytes.subarray(translatedEnd + 1));
}
