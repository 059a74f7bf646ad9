import { mkdirSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { contactSheetSettingsSchema, describeError, sayBytes, workOutOrder, type Brief } from '@mint-tally/core';
import { HeldFolder } from '@mint-tally/disk';
import { folderNamed, readBrief, type CommandOutcome } from '../check/command.ts';
import { colourNamed, joinNegative, sayIssue, targetOutside, UsageError, wordsOf } from '../check/words.ts';
import { makeSheet, type MadeSheet } from './make-sheet.ts';

export const SHEET_USAGE =
  'Usage: ./mint sheet FOLDER --brief FILE.json --out FILE.png|.pdf [--passes A,B] [--range R] [--most N] [--columns N] [--ground dark|light] [--view srgb|rec709|linear|log] [--exposure STOPS] [--background COLOUR] [--note TEXT] [--json]';

const wrong = (message: string) => new UsageError(message, SHEET_USAGE);

/** Runs `./mint sheet` with no database and no server. Never throws: what fails becomes status 2. */
export async function runSheet(argv: readonly string[], onProgress: (text: string) => void): Promise<CommandOutcome> {
  try {
    const { folder, brief, out, settings, json } = readWords(argv);
    mkdirSync(path.dirname(out), { recursive: true });
    const parent = HeldFolder.open(path.dirname(out), '');
    try {
      const made = (await makeSheet({
        ...{ folder, order: workOutOrder(brief), settings, parent, name: path.basename(out), job: 0 },
        ...{ threads: os.availableParallelism(), stopped: () => false },
        onProgress: ({ done, total }) => onProgress(`picture ${done} of ${total}`),
      }))!;
      return { status: 0, output: json ? JSON.stringify({ file: out, ...made }, null, 2) : saySheet(out, made), error: '' };
    } finally {
      parent.close();
    }
  } catch (thrown) {
    return { status: 2, output: '', error: `mint sheet: ${describeError(thrown).replace(/\s+/g, ' ')}` };
  }
}

function saySheet(file: string, { pictures, pages, bytes, slates }: MadeSheet): string {
  return [
    `${file}: ${pictures} ${pictures === 1 ? 'picture' : 'pictures'} on ${pages} ${pages === 1 ? 'page' : 'pages'}, ${sayBytes(bytes)}.`,
    slates.length === 0 ? 'Every frame is there.' : `Slates stand for ${slates.map(({ pass, frames }) => `${pass} ${frames}`).join(', ')}.`,
  ].join('\n');
}

/** @throws MintError */
function readWords(argv: readonly string[]) {
  const [text, flag] = [{ type: 'string' } as const, { type: 'boolean', default: false } as const];
  const { folder: named, values } = wordsOf(
    joinNegative(argv, '--exposure'),
    {
      ...{ brief: text, out: text, passes: text, range: text, most: text, columns: text, ground: text, view: text, exposure: text, background: text },
      ...{ note: text, json: flag },
    },
    SHEET_USAGE,
  );
  if (values.brief === undefined) throw wrong('No brief was named.');
  if (values.out === undefined) throw wrong('It was not said where the sheet is written: --out.');
  const form = path.extname(values.out).slice(1).toLowerCase();
  if (form !== 'png' && form !== 'pdf') throw wrong(`${values.out} is no .png or .pdf.`);
  const folder = folderNamed(named);
  const brief = readBrief(values.brief);
  const { range, most, columns, ground, view, exposure, note } = values;
  const settings = contactSheetSettingsSchema.safeParse({
    ...{ form, range, ground, view, note, passes: values.passes?.split(',') ?? [usualPass(brief)] },
    ...{ most: numberOf(most), columns: numberOf(columns), exposure: numberOf(exposure), background: colourNamed(values.background, SHEET_USAGE) },
  });
  if (!settings.success) throw wrong(sayIssue(settings.error));
  return { folder, brief, out: targetOutside(folder, values.out, 'sheet'), settings: settings.data, json: values.json };
}

const numberOf = (text: string | undefined) => (text === undefined ? undefined : Number(text));

/** What is looked at where nobody says what: the beauty, else the first pass. */
const usualPass = ({ passes }: Brief) => (passes.find(({ role }) => role === 'beauty') ?? passes[0]!).name;
