import * as z from 'zod';
import { severities, type Brief, type Severity } from '../brief/index.ts';
import { FrameSet, frameSetSchema } from '../ranges/index.ts';
import { families, findingCodes, isFindingCode, type FindingCode } from './codes.ts';

/** What was seen in one file. */
const evidenceSchema = z.object({
  file: z.string(),
  message: z.string(),
  /** Another file to look at beside it: the neighbour, the original. */
  beside: z.string().optional(),
  /** The path that the file should have. */
  shouldBe: z.string().optional(),
});
export type Evidence = z.output<typeof evidenceSchema>;

/** One thing that is wrong or odd. There is one a code and pass, and per differing detail. */
export const findingSchema = z.object({
  code: z
    .string()
    .refine(isFindingCode)
    .transform((code) => code as FindingCode),
  severity: z.enum(severities),
  family: z.enum(families),
  /** The ordered pass that it concerns, or null. */
  pass: z.string().nullable(),
  /** Empty when it concerns no frame. */
  frames: frameSetSchema,
  /** Relative to the shot's folder; of very many only the first, with the number of the others. */
  files: z.array(z.string()),
  moreFiles: z.number().default(0),
  message: z.string(),
  /** What tells it from others of its code and pass, such as the size that was found. */
  detail: z.string(),
  /** What was seen in single files. */
  evidence: z.array(evidenceSchema),
});
export type Finding = z.output<typeof findingSchema>;

/** How many files a finding has, also where not all are listed. */
export function fileCountOf({ files, moreFiles }: Pick<Finding, 'files' | 'moreFiles'>): number {
  return files.length + moreFiles;
}

interface Pending {
  readonly code: FindingCode;
  readonly pass: string | null;
  readonly detail: string;
  readonly frames: number[];
  readonly files: string[];
  readonly evidence: Evidence[];
}

/** At most this many files are listed in one finding: a pass of the longest shots, but not a million strays. */
const MAXIMUM_FILES = 10_000;
/** At most this many files give their own evidence in one finding; the rest are in `files`. */
const MAXIMUM_EVIDENCE = 200;

const severityRank: Record<Severity, number> = { blocker: 0, warning: 1, note: 2 };

/** Gathers what is found and makes one finding of each code, pass and detail. */
export class FindingCollector {
  private readonly pending = new Map<string, Pending>();
  private readonly brief: Pick<Brief, 'severities' | 'checks'>;
  private readonly silent: ReadonlySet<string>;
  private readonly told = new Map<string, Set<FindingCode>>();

  constructor(brief: Pick<Brief, 'severities' | 'checks'>) {
    this.brief = brief;
    this.silent = new Set(brief.checks?.off ?? []);
  }

  /** Whether anything, or one of some codes, has been noted of a frame of a pass. */
  has(pass: string, frame: number, codes?: readonly FindingCode[]): boolean {
    const told = this.told.get(`${frame} ${pass}`);
    return told !== undefined && (codes === undefined || codes.some((code) => told.has(code)));
  }

  /**
   * Notes one thing. `evidence` is said of the file, where there is one, with what to look at
   * beside it and what it should be called.
   */
  add(
    code: FindingCode,
    pass: string | null,
    at: { frame?: number; file?: string; detail?: string; evidence?: string; beside?: string; shouldBe?: string },
  ): void {
    if (this.silent.has(code)) return;
    if (at.frame !== undefined) {
      const place = `${at.frame} ${pass}`;
      const told = this.told.get(place);
      if (told) told.add(code);
      else this.told.set(place, new Set([code]));
    }
    const detail = at.detail ?? '';
    const key = JSON.stringify([code, pass, detail]);
    let pending = this.pending.get(key);
    if (!pending) {
      pending = { code, pass, detail, frames: [], files: [], evidence: [] };
      this.pending.set(key, pending);
    }
    if (at.frame !== undefined) pending.frames.push(at.frame);
    if (at.file !== undefined) pending.files.push(at.file);
    if (at.file !== undefined && at.evidence !== undefined && pending.evidence.length < MAXIMUM_EVIDENCE) {
      const { file, evidence: message, beside, shouldBe } = at;
      pending.evidence.push({ file, message, ...(beside === undefined ? {} : { beside }), ...(shouldBe === undefined ? {} : { shouldBe }) });
    }
  }

  /** The findings, blockers first, each with its sentence. */
  findings(write: (code: FindingCode, facts: MessageFacts) => string): Finding[] {
    const findings = [...this.pending.values()].map((pending): Finding => {
      // Folders list their files in no order; people and scripts want one.
      pending.files.sort();
      pending.evidence.sort((a, b) => (a.file < b.file ? -1 : 1));
      const frames = FrameSet.of(pending.frames);
      const facts = { frames, files: pending.files, detail: pending.detail, evidence: pending.evidence, pass: pending.pass };
      return {
        code: pending.code,
        severity: this.brief.severities?.[pending.code] ?? findingCodes[pending.code].severity,
        family: findingCodes[pending.code].family,
        pass: pending.pass,
        frames,
        files: pending.files.slice(0, MAXIMUM_FILES),
        moreFiles: Math.max(0, pending.files.length - MAXIMUM_FILES),
        message: write(pending.code, facts),
        detail: pending.detail,
        evidence: pending.evidence,
      };
    });
    return findings.sort((a, b) => severityRank[a.severity] - severityRank[b.severity]);
  }
}

/** What a finding's sentence is made from. */
export interface MessageFacts {
  readonly frames: FrameSet;
  readonly files: readonly string[];
  readonly detail: string;
  readonly evidence: readonly { file: string; message: string }[];
  readonly pass: string | null;
}
