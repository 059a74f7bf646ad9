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

/** The last component of a relative path. */
export function baseName(path: string): string {
  return path.slice(path.lastIndexOf('/') + 1);
}

/** The folder of a relative path, without a slash at its end; empty at the top. */
export function folderOf(path: string): string {
  const slash = path.lastIndexOf('/');
  return slash < 0 ? '' : path.slice(0, slash);
}
