import { readFileSync, realpathSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { describeError, mendStepsSchema, MintError, type AnyWish, type MendPlan } from '@mint-tally/core';
import { accessError } from '@mint-tally/disk';
import { folderNamed, readBrief, type CommandOutcome } from '../check/command.ts';
import { UsageError, wordsOf } from '../check/words.ts';
import type { MendCare } from './carry-out.ts';
import { applyMend, MendConflictError, MendUnfinishedError, undoMend, type MendOptions } from './mend-folder.ts';
import { makersFor } from './makers.ts';
import { planMend } from './plan-mend.ts';
import { readMends, type MendRecord } from './journal.ts';

export const MEND_USAGE =
  'Usage: ./mint mend FOLDER --brief FILE.json (--rename | --trim | --renumber N | --plan FILE.json) [--apply] [--json], or ./mint mend FOLDER --undo [--json]';

const wrong = (message: string) => new UsageError(message, MEND_USAGE);

/** Runs `./mint mend` with no database and no server. Never throws: what fails becomes status 2. */
export async function runMend(argv: readonly string[], onProgress: (text: string) => void): Promise<CommandOutcome> {
  try {
    const { json, ...wanted } = parseMendArguments(argv);
    const say = (plan: MendPlan, applied: boolean): CommandOutcome => ({
      status: plan.conflicts.length > 0 ? 1 : 0,
      output: json ? JSON.stringify(mendObject(plan, applied), null, 2) : mendText(plan, applied),
      error: '',
    });
    if ('undo' in wanted) {
      const undone = await undoMend(wanted.folder, careOf('taking back', onProgress));
      return { status: 0, output: json ? JSON.stringify(undoneObject(undone), null, 2) : undoneText(undone), error: '' };
    }
    const { isApplied, ...options } = wanted;
    if (!isApplied) {
      const [plan, mends] = [await planMend(options), await readMends(options.folder)];
      const unfinished = mends.find((mend) => !mend.isEnded || mend.isUndoing);
      if (unfinished) throw new MendUnfinishedError(options.folder, unfinished);
      return say(plan, false);
    }
    try {
      const makers = makersFor(os.availableParallelism());
      try {
        return say((await applyMend(options, { ...careOf('mending', onProgress), ...makers.care }))!, true);
      } finally {
        await makers.close();
      }
    } catch (thrown) {
      // The plan tells more than its first conflict.
      if (thrown instanceof MendConflictError) return say(await planMend(options), false);
      throw thrown;
    }
  } catch (thrown) {
    return { status: 2, output: '', error: `mint mend: ${describeError(thrown).replace(/\s+/g, ' ')}` };
  }
}

/** Nobody stops a command but by killing it. */
const careOf = (what: string, onProgress: (text: string) => void): MendCare => ({
  onMove: (done, total) => onProgress(`${what}: ${done} of ${total} files`),
  isStopped: () => false,
});

type Wanted = (MendOptions & { readonly isApplied: boolean }) | { readonly folder: string; readonly undo: true };

function parseMendArguments(argv: readonly string[]): Wanted & { readonly json: boolean } {
  const [text, flag] = [{ type: 'string' } as const, { type: 'boolean', default: false } as const];
  const { folder: named, values } = wordsOf(
    argv.map(asValue),
    { brief: text, rename: flag, trim: flag, renumber: text, plan: text, apply: flag, undo: flag, json: flag },
    MEND_USAGE,
  );
  const { json } = values;
  const folder = folderNamed(named);
  const wishes: AnyWish[] = [];
  if (values.rename) wishes.push({ kind: 'rename', aside: [] });
  if (values.trim) wishes.push({ kind: 'trim', frames: '', passes: [] });
  if (values.renumber !== undefined) wishes.push({ kind: 'renumber', by: offsetOf(values.renumber), aside: [] });
  if (values.plan !== undefined) wishes.push({ kind: 'plan', steps: readPlan(values.plan) });
  if (values.undo) {
    if (wishes.length > 0 || values.apply) throw wrong('--undo stands alone: it takes back what was mended last.');
    return { folder, undo: true, json };
  }
  if (wishes.length !== 1) throw wrong(wishes.length === 0 ? 'It was not said what is to be mended.' : 'One thing is mended at a time.');
  if (values.brief === undefined) throw wrong('No brief was named.');
  const brief = readBrief(values.brief);
  const kept = new Set([values.brief, ...(values.plan === undefined ? [] : [values.plan])].map((file) => path.relative(folder, realpathSync(file))));
  return { folder, brief, wish: wishes[0]!, kept, now: Date.now(), isApplied: values.apply, json };
}

/** A negative number behind `--renumber` is its value, not an option. */
const asValue = (word: string, i: number, all: readonly string[]) => (/^-\d+$/.test(word) && all[i - 1] === '--renumber' ? `+${word}` : word);

function offsetOf(text: string): number {
  const value = Number(text.replace(/^\+-/, '-'));
  if (!Number.isSafeInteger(value) || text.trim() === '' || Math.abs(value) > 99_999_999) throw wrong(`${text} is no number of frames.`);
  return value;
}

/** @throws MintError when it cannot be read, or is no plan */
function readPlan(file: string) {
  let value: unknown;
  try {
    value = JSON.parse(readFileSync(file, 'utf8'));
  } catch (thrown) {
    const cannot = (thrown as NodeJS.ErrnoException).code !== undefined;
    throw new MintError('mend-plan', cannot ? accessError(thrown, file).message : `${file} is not JSON: ${(thrown as Error).message}.`, { subject: file });
  }
  const parsed = mendStepsSchema.safeParse(value);
  if (parsed.success) return parsed.data.steps;
  const { path: place, message } = parsed.error.issues[0]!;
  throw new MintError('mend-plan', `${file} is no plan: ${place.join('.')}: ${message}.`, {
    subject: file,
    remedy: 'Write it as --json prints one: steps with action, from, to and reason.',
  });
}

function mendObject({ steps, conflicts }: MendPlan, applied: boolean) {
  return { steps: steps.map(({ action, from, to, reason }) => ({ action, from, to, reason })), conflicts, applied };
}

const SHOWN = 40;

function mendText({ steps, conflicts }: MendPlan, applied: boolean): string {
  const files = (count: number) => `${count} ${count === 1 ? 'file' : 'files'}`;
  const lines = steps.slice(0, SHOWN).map(({ action, from, to, reason }) => `${action}  ${from}  ->  ${to}${reason === '' ? '' : `  (${reason})`}`);
  return [
    ...conflicts.map(({ message, files: named }) => `conflict: ${message} ${named.join(', ')}`),
    ...lines,
    ...(steps.length > SHOWN ? [`… and ${files(steps.length - SHOWN)} more.`] : []),
    steps.length === 0 && conflicts.length === 0
      ? 'There is nothing to mend.'
      : applied
        ? `${files(steps.length)} mended. ./mint mend FOLDER --undo takes it back.`
        : conflicts.length > 0
          ? 'Nothing was changed: decide on the conflicts first.'
          : `${files(steps.length)} would be mended: --apply does it.`,
  ].join('\n');
}

function undoneObject(undone: MendRecord | null) {
  const steps = undone?.head.steps ?? [];
  return { steps: steps.map(({ action, from, to, reason }) => ({ action, from: to, to: from, reason })), conflicts: [], applied: undone !== null };
}

function undoneText(undone: MendRecord | null): string {
  if (!undone) return 'There is nothing to take back.';
  const { head, begun } = undone;
  // A mend that was broken off had not touched all of its files.
  const files = new Set([...begun.keys()].map((move) => head.moves[move]!.step)).size;
  return `Taken back: ${head.says} of ${head.at.slice(0, 19).replace('T', ' ')}, ${files} of ${head.steps.length} ${head.steps.length === 1 ? 'file' : 'files'} had been moved.`;
}
