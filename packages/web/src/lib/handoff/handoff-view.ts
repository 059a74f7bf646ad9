import { folderInTar, type PackageWish, type Receipt } from '@mint-tally/core';
import { counted, formatMoment } from '$lib/text/format';
import type { SavedMovie, SavedSheet } from '@mint-tally/store';

/** A person's word for the version, and whether the frames are still those that it was given for. */
export interface StampView {
  readonly id: number;
  readonly kind: 'signed' | 'sent-back';
  readonly person: string;
  readonly note: string;
  readonly at: string;
  /** What has changed since, in words; empty while it holds. */
  readonly broken: string;
}

/** A package as the page lists it, with what the other side said. */
export interface PackageView {
  readonly id: number;
  readonly root: string;
  readonly folder: string;
  /** On this machine's disk; null where its root is none of ours any more. */
  readonly path: string | null;
  readonly files: number;
  readonly bytes: number;
  readonly volumes: number;
  readonly wish: PackageWish;
  readonly manifestSha256: string;
  readonly actor: string;
  readonly at: string;
  readonly receipts: readonly Receipt[];
}

/** A movie as the page lists it. */
export interface MovieView extends Pick<SavedMovie, 'id' | 'root' | 'file' | 'pass' | 'made' | 'actor'> {
  readonly at: string;
  /** Whether the file is where it was written. */
  readonly isThere: boolean;
}

/** A contact sheet as the page lists it. */
export interface SheetView extends Pick<SavedSheet, 'id' | 'root' | 'file' | 'wish' | 'made' | 'actor'> {
  readonly at: string;
  /** Whether the file is where it was written. */
  readonly isThere: boolean;
}

/** What was chosen for a package, in words; empty for a whole shot in a folder. */
export function sayWish({ passes, range, withHandles, form, volumeSize, taking, since }: PackageWish): string {
  return [
    ...(since === null ? [] : ['what is new since an earlier one']),
    ...(passes.length === 0 ? [] : [passes.join(', ')]),
    ...(range === '' ? [] : [range]),
    ...(withHandles ? [] : ['without handles']),
    ...(form === 'tar' ? ['tar'] : []),
    ...(volumeSize === null ? [] : ['in volumes']),
    ...(taking === 'copy' ? [] : [taking === 'link' ? 'hard links' : 'shared blocks']),
  ].join(', ');
}

/** What the other side found, in words. */
export function sayReceipt({ valid, ready, problems, person, at, files }: Receipt): string {
  const found = !valid
    ? `${counted(problems.length, 'problem')}: ${problems[0]?.message ?? ''}`
    : ready
      ? `arrived whole, ${counted(files, 'file')}`
      : 'arrived whole, and something stands against the frames';
  return `${found}${person === '' ? '' : `; ${person}`}, ${formatMoment(at)}`;
}

/** A line for a shell that verifies a package with nothing but what every system has. */
export function verifyLine({ path, wish, volumes }: Pick<PackageView, 'path' | 'wish' | 'volumes'>): string {
  const check = 'sha256sum -c manifest-sha256.txt';
  const place = quoted(path ?? '');
  if (wish.form === 'tar' && volumes > 1) return `cd ${place} && for v in volume_*.tar; do tar -xf $v && (cd \${v%.tar} && ${check}); done`;
  if (wish.form === 'tar') return `tar -xf ${place} && cd ${quoted(folderInTar((path ?? '').split('/').at(-1)!))} && ${check}`;
  return volumes > 1 ? `for v in ${place}/volume_*; do (cd "$v" && ${check}); done` : `cd ${place} && ${check}`;
}

/** A text as a shell takes it for one word. */
const quoted = (text: string) => `'${text.replaceAll("'", `'\\''`)}'`;
