import { createHash } from 'node:crypto';
import { piecesOf } from './pieces.ts';

/** SHA-256 of an open file, hexadecimal. */
export async function hashOpen(descriptor: number): Promise<string> {
  const hash = createHash('sha256');
  for await (const piece of piecesOf(descriptor)) hash.update(piece);
  return hash.digest('hex');
}
