import { frameFormats } from './table.ts';

/** A kind of file that can be told by its first bytes. */
export interface FileKind {
  readonly name: string;
  readonly extensions: readonly string[];
}

/**
 * Kinds that are counted by name but not looked into, and kinds that turn up under a frame's
 * name when something went wrong. `signature` holds hexadecimal bytes; `..` is any byte.
 */
const OTHER_KINDS: readonly (FileKind & { signatures: readonly string[]; picture: boolean })[] = [
  { name: 'webp', extensions: ['webp'], signatures: ['52494646........57454250'], picture: true },
  { name: 'gif', extensions: ['gif'], signatures: ['47494638'], picture: true },
  { name: 'hdr', extensions: ['hdr', 'pic'], signatures: ['233f5241444941'], picture: true },
  { name: 'psd', extensions: ['psd', 'psb'], signatures: ['38425053'], picture: true },
  { name: 'jpeg-ls', extensions: ['jls'], signatures: ['ffd8fff7'], picture: true },
  { name: 'jpeg-2000', extensions: ['jp2', 'j2k', 'jpx'], signatures: ['0000000c6a502020', 'ff4fff51'], picture: true },
  { name: 'jpeg-xl', extensions: ['jxl'], signatures: ['0000000c4a584c20', 'ff0a'], picture: true },
  { name: 'bmp', extensions: ['bmp'], signatures: ['424d........00000000'], picture: true },
  { name: 'pdf', extensions: ['pdf'], signatures: ['25504446'], picture: false },
  { name: 'zip', extensions: ['zip'], signatures: ['504b0304', '504b0506'], picture: false },
  { name: 'gzip', extensions: ['gz'], signatures: ['1f8b08'], picture: false },
  { name: 'mp4', extensions: ['mp4', 'mov'], signatures: ['........66747970'], picture: false },
];

/** Whether files with this extension are frames that we look into. */
export function isFrameExtension(extension: string): boolean {
  return formatByExtension(extension) !== null;
}

let pictureExtensions: Set<string> | null = null;

/** Whether files with this extension are pictures, looked into or not. */
export function isPictureExtension(extension: string): boolean {
  pictureExtensions ??= new Set([...frameFormats, ...OTHER_KINDS.filter((kind) => kind.picture)].flatMap((kind) => kind.extensions));
  return pictureExtensions.has(extension.toLowerCase());
}

export function formatByExtension(extension: string) {
  const wanted = extension.toLowerCase();
  return frameFormats.find((format) => format.extensions.includes(wanted)) ?? null;
}

/** The kind that an extension promises; null for an extension that no picture has. */
export function kindByExtension(extension: string): FileKind | null {
  const wanted = extension.toLowerCase();
  return formatByExtension(wanted) ?? OTHER_KINDS.find((kind) => kind.extensions.includes(wanted)) ?? null;
}

/**
 * The kind that the first bytes show; `text` for plain text; null when they show nothing known.
 *
 * @param promised the kind that the extension promises: a format without a signature is looked
 * for only there
 */
export function kindByContent(firstBytes: Uint8Array, promised: FileKind | null): FileKind | null {
  const format = frameFormats.find((candidate) => !candidate.withoutSignature && candidate.recognises(firstBytes));
  if (format) return format;
  const other = OTHER_KINDS.find((kind) => kind.signatures.some((signature) => matches(firstBytes, signature)));
  if (other) return other;
  const unsigned = frameFormats.find((candidate) => candidate.withoutSignature && candidate.name === promised?.name && candidate.recognises(firstBytes));
  if (unsigned) return unsigned;
  const isText = firstBytes.length >= 8 && firstBytes.every((byte) => (byte >= 0x20 && byte < 0x7f) || byte === 9 || byte === 10 || byte === 13);
  return isText ? { name: 'text', extensions: ['txt'] } : null;
}

function matches(bytes: Uint8Array, signature: string): boolean {
  for (let i = 0; i < signature.length / 2; i++) {
    const pair = signature.slice(2 * i, 2 * i + 2);
    if (pair !== '..' && bytes[i] !== Number.parseInt(pair, 16)) return false;
  }
  return true;
}
