import { randomBytes } from 'node:crypto';
import { open, rm, stat } from 'node:fs/promises';
import path from 'node:path';
import {
  ContactSheetError,
  describeError,
  formatFrameRange,
  FrameSet,
  layOutSheet,
  MintError,
  movieSettingsSchema,
  planContactSheet,
  titleSheet,
  type ContactSheetSettings,
  type MovieSettings,
  type Order,
  type SheetContent,
  type SheetPage,
  type SheetSection,
} from '@mint-tally/core';
import { moveInto, type HeldFolder } from '@mint-tally/disk';
import type { FirstLook } from '../drawing/draw-frame.ts';
import { FrameDrawer, fileOf, slateOf } from '../drawing/frame-drawer.ts';
import { filesOfPass } from '../drawing/shown-sequence.ts';
import { unfinishedName } from '../packaging/unfinished.ts';
import { writePdfSheet } from './pdf-sheet.ts';
import { writePngSheet } from './png-sheet.ts';

export interface SheetOptions {
  /** Real path of the shot's folder. */
  readonly folder: string;
  readonly order: Order;
  readonly settings: ContactSheetSettings;
  /** The folder that the sheet is made in, and its name there, which must not be taken. */
  readonly parent: HeldFolder;
  readonly name: string;
  /** Number of the job, 0 for a command's: tells this write's unfinished file from others beside it. */
  readonly job: number;
  readonly threads: number;
  readonly stopped: () => boolean;
  readonly onProgress: (progress: { done: number; total: number }) => void;
  /** Called when the sheet is whole, right before it gets its name. */
  readonly onWhole?: () => Promise<void>;
}

/** A contact sheet that was made. */
export interface MadeSheet {
  readonly pictures: number;
  readonly pages: number;
  readonly bytes: number;
  /** Frames that slates stand for, pass by pass. */
  readonly slates: { readonly pass: string; readonly frames: string }[];
}

/** Pixels a point: three make 216 to the inch, which a printer shows and a screen can be near to. */
export const PIXELS = 3;

/** A picture of a sheet: three bytes a pixel, in the size of its place. */
export interface DrawnCell {
  readonly data: Uint8Array;
  readonly width: number;
  readonly height: number;
}

/** Draws the pictures of a page, in the order of its places. */
export type DrawPage = (page: SheetPage) => AsyncGenerator<DrawnCell>;

/**
 * Makes a contact sheet as PNG or PDF: frames as the viewer shows them, with slates for those that are missing or cannot be read.
 * It is made under another name and gets its own when it is whole; what was stopped or failed leaves nothing.
 *
 * @returns null when it was stopped
 * @throws ContactSheetError, MovieError, MintError
 */
export async function makeSheet(options: SheetOptions): Promise<MadeSheet | null> {
  const { parent, name, folder, order, settings } = options;
  if (parent.has(name))
    throw new ContactSheetError('sheet-exists', `There is a file ${name} already.`, 'Give the sheet another name.', path.join(parent.path, name));
  const sections = await plan(folder, order, settings);
  const drawer = new FrameDrawer(options.threads);
  const target = path.join(parent.where(), unfinishedName(name, `${options.job}-${randomBytes(4).toString('hex')}`));
  try {
    const looks = await Promise.all(sections.map((section) => lookAt(drawer, options, section)));
    const pages = layOutSheet(
      titleSheet(order, settings.note),
      sections.map((section, i) => contentOf(section, looks[i]!)),
      settings.columns,
      settings.form === 'pdf',
    );
    const slates = sections.map((): number[] => []);
    const draw = drawing(options, drawer, sections, looks, slates);
    await (settings.form === 'pdf' ? writePdfSheet(target, pages, draw, settings.ground) : writePngSheet(target, pages[0]!, draw, settings.ground));
    if (options.stopped()) return null;
    await settle(target);
    const made: MadeSheet = {
      ...{ pictures: sections.reduce((sum, { pictures }) => sum + pictures.length, 0), pages: pages.length, bytes: (await stat(target)).size },
      slates: sections.flatMap(({ pass }, i) => (slates[i]!.length === 0 ? [] : [{ pass, frames: formatFrameRange(FrameSet.of(slates[i]!)) }])),
    };
    await options.onWhole?.();
    await moveInto(parent, path.basename(target), parent, name);
    parent.sync();
    return made;
  } catch (thrown) {
    if (thrown instanceof Stopped) return null;
    throw isOfDisk(thrown) ? notWritten(thrown, path.join(parent.path, name)) : thrown;
  } finally {
    await rm(target, { force: true });
    await drawer.close();
  }
}

/** What the system says against writing: of the picture's library in words alone. What is wrong with our own code is not told as that. */
const isOfDisk = (thrown: unknown) =>
  !(thrown instanceof MintError) &&
  thrown instanceof Error &&
  (/^E[A-Z]+$/.test(String((thrown as NodeJS.ErrnoException).code)) || /no space left|unable to write/i.test(thrown.message));

const notWritten = (thrown: unknown, file: string) => {
  const says = describeError(thrown);
  const why = /no space left/i.test(says) ? 'there is no room left on the disk.' : says;
  return new ContactSheetError('sheet', `The sheet cannot be written: ${why}`, 'Make room, or write it elsewhere.', file);
};

/** Ends the drawing of a sheet that somebody has stopped. */
class Stopped extends Error {}

async function plan(folder: string, order: Order, settings: ContactSheetSettings): Promise<SheetSection[]> {
  const files = new Map<number, (frame: number) => string | null>();
  for (const [i, { pass }] of order.passes.entries()) if (settings.passes.includes(pass.name)) files.set(i, await filesOfPass(folder, order, i));
  return planContactSheet(order, settings, (passIndex, frame) => files.get(passIndex)!(frame));
}

/** A pass of which no picture can be read is slates in the ordered size. */
async function lookAt(drawer: FrameDrawer, { folder, order }: SheetOptions, { passIndex, pictures }: SheetSection): Promise<FirstLook> {
  try {
    return await drawer.look({ folder, order, passIndex }, pictures);
  } catch (thrown) {
    const { resolution } = order.brief;
    if (!resolution) throw thrown;
    return { width: resolution[0], height: resolution[1], pixelAspect: order.brief.pixelAspect ?? 1, reading: 'colour', range: [0, 1] };
  }
}

const contentOf = ({ pass, says, pictures }: SheetSection, { width, height, pixelAspect }: FirstLook): SheetContent => ({
  ...{ title: pass, says, aspect: (width * pixelAspect) / height },
  captions: pictures.map(({ frame, timecode }) => [String(frame), timecode]),
});

function drawing(
  { folder, order, settings, threads, stopped, onProgress }: SheetOptions,
  drawer: FrameDrawer,
  sections: readonly SheetSection[],
  looks: readonly FirstLook[],
  slates: readonly number[][],
): DrawPage {
  const total = sections.reduce((sum, { pictures }) => sum + pictures.length, 0);
  let done = 0;
  const begin = async ({ section, picture, width, height }: SheetPage['cells'][number]) => {
    const { pass, passIndex, pictures } = sections[section]!;
    const shown = pictures[picture]!;
    const size: [number, number] = [Math.max(1, Math.round(width * PIXELS)), Math.max(1, Math.round(height * PIXELS))];
    const { data, why } = await drawer.draw({
      ...{ shown: fileOf({ folder, order, passIndex }, shown.file), other: null, hasOther: false, settings: looksOf(settings, size) },
      ...{ width: size[0], height: size[1], look: looks[section]!, lines: ['', '', ''], slate: slateOf(pass, shown) },
    });
    if (why !== '') slates[section]!.push(shown.frame);
    return { data, width: size[0], height: size[1] };
  };
  return async function* ({ cells }) {
    const ahead: Promise<DrawnCell>[] = [];
    try {
      for (let i = 0; i < cells.length; i++) {
        for (let next = i + ahead.length; next < cells.length && next <= i + threads; next++) {
          const begun = begin(cells[next]!);
          begun.catch(() => undefined);
          ahead.push(begun);
        }
        const cell = await ahead.shift()!;
        if (stopped()) throw new Stopped();
        onProgress({ done: ++done, total });
        yield cell;
      }
    } finally {
      await Promise.allSettled(ahead);
    }
  };
}

/** What a movie would be told of how its pictures look, for a picture of a sheet. */
function looksOf({ view, exposure, background }: ContactSheetSettings, size: [number, number]): MovieSettings {
  return { ...movieSettingsSchema.parse({ codec: 'webp', view, exposure, background }), size };
}

async function settle(file: string): Promise<void> {
  const handle = await open(file, 'r');
  try {
    await handle.sync();
  } finally {
    await handle.close();
  }
}
