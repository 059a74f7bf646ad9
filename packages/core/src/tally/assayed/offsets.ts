import type { ChangeFits, PassFigures } from '../../assay/index.ts';
import type { FindingCollector } from '../findings.ts';

/** Fewer frames in a row show nothing: one that shows another frame repeats its neighbour, which the count tells. */
const FEWEST = 3;
/** What changes must fit the changes of another frame by this, over the run, and those of its own by less than this share of that: */
const FITS = 0.13;
const OWN_OF_BEAUTY = 0.5;
/** passes beside each other have no noise, and tell steps of parts of a pixel. */
const OWN_OF_OTHERS = 0.7;
/** It must also be so many times what noise alone makes of it: of so many pixels with an edge of their own one over their root. */
const SIGNIFICANT = 3;
const PIXELS_OF_AN_EDGE = 9;

/** A frame earlier, its own, a frame later. */
type Step = -1 | 0 | 1;
const placeOf = (step: Step) => (step + 1) as 0 | 1 | 2;
const DETAIL = { [-1]: 'a frame earlier', 1: 'a frame later' } as const;

/**
 * Passes that show the picture of another frame: all of their frames, or a run of them. They are held against each other first,
 * since they have no noise: the fewer are out of step, unless the beauty clearly says otherwise. Where they all go together
 * they are held against the beauty.
 */
export function findOffsets(collector: FindingCollector, all: readonly PassFigures[]): void {
  const passes = byPass(all);
  const told = new Set<PassFigures>();
  const tell = (figures: PassFigures, step: -1 | 1, evidence: string) => {
    if (told.has(figures)) return;
    told.add(figures);
    collector.add('pass-offset', figures.pass, { frame: figures.frame, file: figures.file, detail: DETAIL[step], evidence });
  };
  const wholeIsTold = tellBesides(passes, tell);
  if (!wholeIsTold)
    for (const run of runsApart(passes)) tellBesides(new Map([...passes].map(([name, frames]) => [name, frames.filter(({ frame }) => run.has(frame))])), tell);
  // Where some are out of step the others were found to be in step.
  const isJudged = (pass: string) => wholeIsTold && [...passes.keys()].some((other) => other !== pass && stepBetween(passes, pass, other) !== null);
  for (const [pass, frames] of passes) {
    if (isJudged(pass) || frames.some((one) => told.has(one))) continue;
    tellBesideBeauty(togetherWith(passes, pass), (one, step) => tell(one, step, evidenceOf(one.changes!, step, 'the beauty')));
  }
}

const byPass = (all: readonly PassFigures[]): Passes =>
  new Map([...new Set(all.map(({ pass }) => pass))].map((name) => [name, all.filter(({ pass }) => pass === name)]));

/** Frames of a pass that fit another frame better than their own: of the passes beside it, or of the beauty where there are none. */
export function framesElsewhere(all: readonly PassFigures[], pass: string): number[] {
  const passes = byPass(all);
  const besides = [...passes.keys()].flatMap((other) => (other === pass ? [] : fitsBetween(passes, pass, other)));
  const beauty = (passes.get(pass) ?? []).flatMap((figures) => (figures.changes ? [{ figures, fits: figures.changes }] : []));
  const isElsewhere = ({ fits }: (typeof beauty)[number]) => Math.max(fits[0], fits[2]) > fits[1];
  return [...new Set((besides.length > 0 ? besides : beauty).filter(isElsewhere).map(({ figures }) => figures.frame))];
}

type Tell = (figures: PassFigures, step: -1 | 1, evidence: string) => void;
type Passes = ReadonlyMap<string, readonly PassFigures[]>;

const evidenceOf = (fits: ChangeFits, step: -1 | 1, what: string) =>
  `What changes in it fits what changes in ${what} ${DETAIL[step]} by ${fits[placeOf(step)].toFixed(2)}, in its own frame by ${fits[1].toFixed(2)}.`;

/** How one pass fits another, frame by frame; those that say it the other way round are turned. */
function fitsBetween(passes: Passes, pass: string, other: string): { readonly figures: PassFigures; readonly fits: ChangeFits }[] {
  const back = new Map((passes.get(other) ?? []).map((one) => [one.frame, one.besides[pass]]));
  return (passes.get(pass) ?? []).flatMap((figures) => {
    const turned = back.get(figures.frame);
    const fits = figures.besides[other] ?? (turned && ([turned[2], turned[1], turned[0]] as const));
    return fits ? [{ figures, fits }] : [];
  });
}

const meanAt = (all: readonly ChangeFits[], place: 0 | 1 | 2) => all.reduce((sum, fits) => sum + fits[place], 0) / all.length;

/** Which frame of another a pass shows, over all that are given; null where nothing tells. */
function stepBetween(passes: Passes, pass: string, other: string): Step | null {
  const between = fitsBetween(passes, pass, other);
  if (between.length < FEWEST) return null;
  const all = between.map(({ fits }) => fits);
  const run = between.map(({ figures }) => figures);
  for (const step of [-1, 1] as const) if (showsAnother(run, all, step, OWN_OF_OTHERS)) return step;
  const own = meanAt(all, 1);
  return own > leastOf(run) && own >= Math.max(meanAt(all, 0), meanAt(all, 2)) ? 0 : null;
}

/** Which frame of the others, or of the beauty, a pass shows. */
interface Shown {
  readonly pass: string;
  readonly step: Step;
}

/** Tells passes that are out of step with the others, and with the beauty; says whether any is. */
function tellBesides(passes: Passes, tell: Tell): boolean {
  const names = [...passes.keys()];
  const steps = new Map(names.map((pass) => [pass, new Map(names.map((other) => [other, other === pass ? (0 as Step) : stepBetween(passes, pass, other)]))]));
  const inStep = (pass: string) => names.filter((other) => steps.get(pass)!.get(other) === 0).length;
  const [reference] = names.toSorted((a, b) => inStep(b) - inStep(a));
  if (reference === undefined) return false;
  const known = names.flatMap((pass) => {
    const step = steps.get(pass)!.get(reference)!;
    return step === null ? [] : [{ pass, step }];
  });
  if (known.every(({ step }) => step === 0)) return false;
  const shifted = ([-1, 0, 1] as const).map((by) => known.map(({ pass, step }) => ({ pass, step: step + by })));
  const possible = shifted.filter((all) => all.every(({ step }) => Math.abs(step) <= 1)) as Shown[][];
  /** How well they fit the beauty, if so many frames on. */
  const fit = (all: readonly Shown[]) => {
    const each = all.map(({ pass, step }) => (passes.get(pass) ?? []).flatMap(({ changes }) => (changes ? [changes[placeOf(step)]] : [])));
    const told = each.filter((fits) => fits.length > 0).map((fits) => fits.reduce((sum, value) => sum + value, 0) / fits.length);
    return told.length === 0 ? 0 : told.reduce((sum, value) => sum + value, 0) / told.length;
  };
  const outOfStep = (all: readonly Shown[]) => all.flatMap(({ pass, step }) => (step === 0 ? [] : [{ pass, step }]));
  const [first, next] = possible.toSorted((a, b) => outOfStep(a).length - outOfStep(b).length || fit(b) - fit(a));
  if (!first) return false;
  // The fewer are out of step, but where the beauty says otherwise as clearly as it would of one pass; where they are as many it tells.
  const frames = known.flatMap(({ pass }) => passes.get(pass) ?? []);
  const [clearest] = possible.toSorted((a, b) => fit(b) - fit(a));
  const isClear = fit(clearest!) > leastOf(frames) && fit(first) < OWN_OF_BEAUTY * fit(clearest!);
  const isEven = next !== undefined && outOfStep(next).length === outOfStep(first).length;
  if (isEven && !isClear && fit(first) - fit(next) < chanceOf(frames)) return false;
  const best = isClear ? clearest! : first;
  const others = best.filter(({ step }) => step === 0);
  for (const { pass, step } of others.length > 0 ? outOfStep(best) : []) {
    for (const { pass: other } of others) for (const { figures, fits } of fitsBetween(passes, pass, other)) tell(figures, step, evidenceOf(fits, step, other));
  }
  return others.length > 0;
}

/** Frames in a row in which some pass fits those of another that are beside its own. */
function runsApart(passes: Passes): Set<number>[] {
  const names = [...passes.keys()];
  const apart = new Set<number>();
  for (const pass of names)
    for (const other of names)
      for (const { figures, fits } of pass === other ? [] : fitsBetween(passes, pass, other))
        if (Math.max(fits[0], fits[2]) > fits[1]) apart.add(figures.frame);
  const runs: Set<number>[] = [];
  const frames = [...new Set([...passes.values()].flat().map(({ frame }) => frame))].sort((a, b) => a - b);
  let run = new Set<number>();
  for (const frame of [...frames, null]) {
    if (frame !== null && apart.has(frame)) run.add(frame);
    else {
      if (run.size >= FEWEST) runs.push(run);
      run = new Set();
    }
  }
  return runs;
}

/** A frame of a pass, and how well it fits the beauty: it and those that go with it, whose mean is less of a chance. */
interface BesideBeauty {
  readonly figures: PassFigures;
  readonly fits: ChangeFits;
}

/** A pass goes with the beauty as those do that it goes with in that frame. */
function togetherWith(passes: Passes, pass: string): BesideBeauty[] {
  const others = [...passes.keys()].filter((other) => other !== pass && stepBetween(passes, pass, other) === 0);
  const inStep = others.map((other) => {
    const changes = new Map(passes.get(other)!.map((one) => [one.frame, one.changes]));
    const frames = fitsBetween(passes, pass, other).filter(({ fits }) => fits[1] >= Math.max(fits[0], fits[2]));
    return new Map(frames.map(({ figures: { frame } }) => [frame, changes.get(frame) ?? null]));
  });
  return (passes.get(pass) ?? []).flatMap((figures) => {
    if (!figures.changes) return [];
    const all = [figures.changes, ...inStep.flatMap((other) => (other.get(figures.frame) ? [other.get(figures.frame)!] : []))];
    return [{ figures, fits: [meanAt(all, 0), meanAt(all, 1), meanAt(all, 2)] as const }];
  });
}

/** Frames of a pass that show the beauty of another frame: all of them, or a run. */
function tellBesideBeauty(told: readonly BesideBeauty[], tell: (figures: PassFigures, step: -1 | 1) => void): void {
  const shows = (some: readonly BesideBeauty[], step: -1 | 1) =>
    showsAnother(
      some.map(({ figures }) => figures),
      some.map(({ fits }) => fits),
      step,
      OWN_OF_BEAUTY,
    );
  for (const step of [-1, 1] as const) {
    if (shows(told, step)) {
      told.forEach(({ figures }) => tell(figures, step));
      return;
    }
    const side = placeOf(step);
    const isLate = told.map(({ fits }) => fits[side] > fits[1] && fits[side] > fits[2 - side]!);
    for (let from = 0; from < told.length; from++) {
      let to = from;
      while (isLate[to]) to++;
      const run = told.slice(from, to);
      // Where a pass changes by parts of a pixel nothing fits, and now and then another frame by chance: the others must.
      const others = told.filter((one) => !run.includes(one)).map(({ fits }) => fits);
      if (shows(run, step) && meanAt(others, 1) > FITS) run.forEach(({ figures }) => tell(figures, step));
      from = Math.max(from, to);
    }
  }
}

/** What chance alone hardly makes of a fit. */
function chanceOf(run: readonly PassFigures[]): number {
  return SIGNIFICANT / Math.sqrt(run.reduce((sum, { changed }) => sum + changed, 0) / PIXELS_OF_AN_EDGE);
}

const leastOf = (run: readonly PassFigures[]) => Math.max(FITS, chanceOf(run));

function showsAnother(run: readonly PassFigures[], all: readonly ChangeFits[], step: -1 | 1, ownShare: number): boolean {
  const side = meanAt(all, placeOf(step));
  return run.length >= FEWEST && side > leastOf(run) && meanAt(all, 1) < ownShare * side;
}
