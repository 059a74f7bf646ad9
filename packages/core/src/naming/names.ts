/**
 * Why a file name will not survive on another system, or null if it will. Looked at are control
 * and non-ASCII characters, blanks and dots at the ends, and what Windows refuses (reserved
 * characters and device names: Microsoft, "Naming Files, Paths, and Namespaces").
 *
 * @param name one path component
 */
export function unsafeNameReason(name: string): string | null {
  // eslint-disable-next-line no-control-regex -- control characters are what is looked for
  if (/[\u0000-\u001f\u007f]/.test(name)) return 'it holds a control character';
  if (name.includes('\ufffd')) return 'it holds bytes that are no text';
  if (/[^\u0020-\u007e]/.test(name)) return 'it holds characters outside ASCII';
  if (/^\s|\s$/.test(name) || / \./.test(name)) return 'it has a blank at an end';
  if (name.endsWith('.')) return 'it ends with a dot';
  const reserved = /[<>:"|?*\\]/.exec(name);
  if (reserved) return `Windows refuses the character ${reserved[0]}`;
  if (/^(con|prn|aux|nul|com[0-9]|lpt[0-9])(\.|$)/i.test(name)) return 'Windows reserves this name for a device';
  if (name.length > 255) return 'it is longer than 255 characters';
  return null;
}

/** Places in a list of paths: those that must be looked at closely, and those with capitals. */
export interface PathLook {
  readonly odd: readonly number[];
  readonly capitals: readonly number[];
}

const LINE_END = 0x0a;
const SLASH = 0x2f;
const DOT = 0x2e;
/** Of each ASCII character: 1 where it is a letter, digit or one of `_-`, 3 where it is a capital. */
const PLAIN = Uint8Array.from({ length: 128 }, (_, code) => {
  const letter = String.fromCharCode(code);
  return /[A-Z]/.test(letter) ? 3 : /[a-z0-9_-]/.test(letter) ? 1 : 0;
});

/**
 * Goes over paths once, all in one text, which is much the quickest: a count asks this of every
 * file there is, and nearly all are plain. Odd is every path for which {@link unsafeNameReason}
 * might find a reason in one of its parts.
 */
export function lookAtPaths(paths: readonly string[]): PathLook {
  const text = paths.join('\n');
  const odd: number[] = [];
  const capitals: number[] = [];
  let at = 0;
  for (let index = 0; index < paths.length; index++) {
    const end = at + paths[index]!.length;
    let seen = 1;
    let isOdd = end - at > 200;
    let partStart = at;
    let firstDot = -1;
    for (; at <= end; at++) {
      const code = at < text.length ? text.charCodeAt(at) : LINE_END;
      const plain = code < 128 ? PLAIN[code] : 0;
      if (plain !== 0) seen |= plain;
      else if (code === DOT) {
        if (firstDot < 0) firstDot = at;
      } else if (code === SLASH || (code === LINE_END && at === end)) {
        isOdd ||= mayBeRefused(text, partStart, firstDot, at);
        partStart = at + 1;
        firstDot = -1;
      } else isOdd = true;
    }
    if (isOdd) odd.push(index);
    if (seen & 2) capitals.push(index);
  }
  return { odd, capitals };
}

/** Whether a part is empty, ends with a dot, or has the length of a device's name (con, com1). */
function mayBeRefused(text: string, start: number, firstDot: number, end: number): boolean {
  const stem = (firstDot < 0 ? end : firstDot) - start;
  return end === start || text.charCodeAt(end - 1) === DOT || stem === 3 || stem === 4;
}

/** The last component of a relative path. */
export function baseName(path: string): string {
  return path.slice(path.lastIndexOf('/') + 1);
}
