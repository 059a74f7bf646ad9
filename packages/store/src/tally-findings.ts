import { fileCountOf, findingSchema, type Finding, type Tally } from '@mint-tally/core';
import type { RowDataPacket } from 'mysql2/promise';
import type { Queryable, Transaction } from './database.ts';
import { readStored } from './stored.ts';

/** Files of a finding that a page shows; all of them are read when somebody copies them. */
const SHOWN_FILES = 20;

/** Writes down what a tally found. */
export async function saveFindings(inside: Transaction, tallyId: number, findings: Tally['findings']): Promise<void> {
  if (findings.length === 0) return;
  await inside.insertMany(
    `INSERT INTO tally_findings
       (tally_id, place, code, severity, family, pass, frames, message, detail, file_count, files, evidence, all_files, all_evidence) VALUES ?`,
    findings.map((finding, place) => {
      const { code, severity, family, pass, frames, message, detail, files, evidence } = finding;
      const shown = showFiles(finding);
      const text = (whole: readonly unknown[], part: readonly unknown[]) => (whole.length > part.length ? JSON.stringify(whole) : null);
      return [
        ...[tallyId, place, code, severity, family, pass, frames.toString(), message, detail, fileCountOf(finding)],
        ...[JSON.stringify(shown.files), JSON.stringify(shown.evidence), text(files, shown.files), text(evidence, shown.evidence)],
      ];
    }),
  );
}

/** What a page shows of a finding's files. One that concerns no frame is waived by its files, so it needs all of them. */
function showFiles({ frames, files, evidence }: Finding): Pick<Finding, 'files' | 'evidence'> {
  const shown = frames.isEmpty ? files : files.slice(0, SHOWN_FILES);
  const names = new Set(shown);
  return { files: shown, evidence: evidence.filter(({ file }) => names.has(file)) };
}

const HEAD = 'tally_id, place, code, severity, family, pass, frames, message, detail, file_count';

/**
 * The findings of a tally, blockers first. Of many files each lists those that a page shows, with the
 * number of the others, or, when `whole`, all that were written down.
 */
export async function readFindings(on: Queryable, tallyId: number, { whole = false } = {}): Promise<Finding[]> {
  const lists = whole ? 'COALESCE(all_files, files) AS files, COALESCE(all_evidence, evidence) AS evidence' : 'files, evidence';
  const rows = await on.rows(`SELECT ${HEAD}, ${lists} FROM tally_findings WHERE tally_id = ? ORDER BY place`, [tallyId]);
  return rows.map(toFinding);
}

/** The findings of a shot's newest tally, as a page shows them; null before the first. */
export async function newestFindings(on: Queryable, shotId: number): Promise<Finding[] | null> {
  const newest = (await on.rows('SELECT MAX(id) AS id FROM tallies WHERE shot_id = ?', [shotId]))[0]!;
  return newest.id === null ? null : readFindings(on, newest.id as number);
}

/** The files of one finding of a shot's newest tally; none when there is no such finding. */
export async function listFindingFiles(on: Queryable, shotId: number, { code, pass, detail }: Pick<Finding, 'code' | 'pass' | 'detail'>): Promise<string[]> {
  const [row] = await on.rows(
    `SELECT ${HEAD}, COALESCE(all_files, files) AS files, '[]' AS evidence FROM tally_findings
      WHERE tally_id = (SELECT MAX(id) FROM tallies WHERE shot_id = ?) AND code = ? AND pass <=> ? AND detail = ?`,
    [shotId, code, pass, detail],
  );
  return row ? toFinding(row).files : [];
}

function toFinding(row: RowDataPacket): Finding {
  return readStored(`Finding ${row.place} of count ${row.tally_id}`, () => {
    const files = JSON.parse(row.files as string) as unknown[];
    return findingSchema.parse({
      ...row,
      files,
      moreFiles: (row.file_count as number) - files.length,
      evidence: JSON.parse(row.evidence as string) as unknown,
    });
  });
}
