import { briefSchema, fieldMessages, type Brief, type BriefPass, type PassRole } from '@mint-tally/core';
import { hasDropFrame } from './duration-fields';

/** A brief as it is typed: every entry a text. */
export interface BriefDraft {
  shot: string;
  note: string;
  version: string;
  range: string;
  fps: string;
  dropFrame: boolean;
  duration: string;
  handleHead: string;
  handleTail: string;
  loop: boolean;
  allPassesAtOnce: boolean;
  test: string;
  cuts: string;
  width: string;
  height: string;
  pixelAspect: string;
  scale: string;
  crop: string;
  samples: string;
  secondsPerFrame: string;
  noise: string;
  /** Test frames, each number a text; empty where it was not measured. */
  tests: { key: number; samples: string; noise: string; seconds: string }[];
  /** Soft gradients of a measured test frame; null where none was measured. */
  gradients: NonNullable<Brief['sampling']>['gradients'] | null;
  naming: string;
  sound: Brief['sound'] | null;
  /** Name of the delivery specification; empty for none. */
  follows: string;
  passes: PassDraft[];
  /** What the form does not show, kept as it is. */
  rest: Partial<Brief>;
}

export interface PassDraft {
  /** Tells rows apart while they are edited. */
  key: number;
  name: string;
  role: string;
  pattern: string;
  range: string;
  channels: string;
  depth: string;
  compression: string;
  alpha: string;
  colourSpace: string;
  /** Name of the pass that it is without its noise; empty where it is as it was rendered. */
  denoisedFrom: string;
  /** Whether somebody has to watch it; null where nothing is said. */
  watch: boolean | null;
  rest: Partial<BriefPass>;
}

let nextKey = 1;

export function newPass(name = '', pattern = ''): PassDraft {
  return {
    key: nextKey++,
    name,
    role: '',
    pattern,
    range: '',
    channels: '',
    depth: '',
    compression: '',
    alpha: '',
    colourSpace: '',
    denoisedFrom: '',
    watch: null,
    rest: {},
  };
}

/** What a pass of a role usually holds, for a row in which nothing is said yet. */
export const usualKinds: Readonly<Record<PassRole, { channels: string; depth: string; alpha: string }>> = {
  beauty: { channels: 'R G B A', depth: 'half', alpha: 'premultiplied' },
  light: { channels: 'R G B', depth: 'half', alpha: '' },
  half: { channels: 'R G B A', depth: 'half', alpha: 'premultiplied' },
  albedo: { channels: 'R G B', depth: 'half', alpha: '' },
  normal: { channels: 'X Y Z', depth: 'half', alpha: '' },
  depth: { channels: 'Z', depth: 'float', alpha: '' },
  motion: { channels: 'X Y', depth: 'half', alpha: '' },
  occlusion: { channels: 'Y', depth: 'half', alpha: '' },
  matte: { channels: 'Y', depth: 'half', alpha: '' },
  id: { channels: 'id', depth: 'uint', alpha: '' },
  other: { channels: '', depth: '', alpha: '' },
};

export const USUAL_NAMING = '{pass}/{shot}_{version}_{pass}.####.exr';

/** A row for one more test frame. */
export function newTest(measured: { samples: number; noise: number | null; seconds: number | null } | null = null): BriefDraft['tests'][number] {
  const rounded = (value: number | null | undefined) => text(value === null || value === undefined ? undefined : Number(value.toPrecision(4)));
  return { key: nextKey++, samples: text(measured?.samples), noise: rounded(measured?.noise), seconds: rounded(measured?.seconds) };
}

/** A brief to begin with where nothing is there to propose one. */
export function emptyDraft(shot: string): BriefDraft {
  return {
    shot,
    note: '',
    version: '',
    range: '',
    fps: '24',
    dropFrame: false,
    duration: '',
    handleHead: '',
    handleTail: '',
    loop: false,
    allPassesAtOnce: false,
    test: '',
    cuts: '',
    width: '',
    height: '',
    pixelAspect: '',
    scale: '',
    crop: '',
    samples: '',
    secondsPerFrame: '',
    noise: '',
    tests: [],
    gradients: null,
    naming: '',
    sound: null,
    follows: '',
    rest: {},
    passes: [newPass('beauty', `beauty/${shot || 'shot'}_beauty.####.exr`)],
  };
}

const text = (value: number | string | undefined) => (value === undefined ? '' : String(value));

/** Opens a brief for editing. */
export function draftOf(brief: Brief, note: string): BriefDraft {
  const {
    shot,
    version,
    range,
    fps,
    dropFrame,
    duration,
    handles,
    loop,
    allPassesAtOnce,
    test,
    cuts,
    resolution,
    pixelAspect,
    scale,
    crop,
    sampling,
    naming,
    sound,
    follows,
    passes,
    ...rest
  } = brief;
  return {
    shot,
    note,
    range,
    rest,
    version: text(version),
    fps: text(fps),
    dropFrame: dropFrame ?? false,
    duration: text(duration),
    handleHead: text(handles?.[0]),
    handleTail: text(handles?.[1]),
    loop: loop ?? false,
    allPassesAtOnce: allPassesAtOnce ?? false,
    test: text(test),
    cuts: text(cuts),
    width: text(resolution?.[0]),
    height: text(resolution?.[1]),
    pixelAspect: text(pixelAspect),
    scale: text(scale),
    crop: crop?.join(' ') ?? '',
    samples: text(sampling?.samples),
    secondsPerFrame: text(sampling?.secondsPerFrame),
    noise: text(sampling?.noise),
    tests: (sampling?.tests ?? []).map((test) => ({
      key: nextKey++,
      samples: text(test.samples),
      noise: text(test.noise ?? undefined),
      seconds: text(test.seconds ?? undefined),
    })),
    gradients: sampling?.gradients ?? null,
    naming: text(naming),
    sound: sound ?? null,
    follows: text(follows),
    passes: passes.map(({ name, role, pattern, range: passRange, channels, depth, compression, alpha, colourSpace, denoisedFrom, watch, ...passRest }) => ({
      key: nextKey++,
      name,
      pattern,
      role: text(role),
      range: text(passRange),
      channels: channels?.join(' ') ?? '',
      depth: text(depth),
      compression: compression?.join(' ') ?? '',
      alpha: text(alpha),
      colourSpace: text(colourSpace),
      denoisedFrom: text(denoisedFrom),
      watch: watch ?? null,
      rest: passRest,
    })),
  };
}

const words = (value: string) => value.split(/[\s,]+/).filter((word) => word !== '');
/** What is left empty is not stated, so it is not checked. */
const stated = (value: string) => (value.trim() === '' ? undefined : value.trim());
const list = (value: string) => (words(value).length === 0 ? undefined : words(value));
/** A number, or the text itself where it is none, for the schema to tell. */
const numeric = (value: string) => (value.trim() === '' ? undefined : Number.isNaN(Number(value)) ? value : Number(value));
/** Several numbers of which some may be empty; undefined when all are. */
const numbers = (...values: string[]) => (values.every((value) => value.trim() === '') ? undefined : values.map((value) => numeric(value) ?? null));

/** Rows in which nothing stands yet are no test frames. */
function testsOf(draft: BriefDraft): unknown {
  const rows = draft.tests.filter((test) => [test.samples, test.noise, test.seconds].some((value) => value.trim() !== ''));
  if (rows.length === 0) return undefined;
  return rows.map((test) => ({ samples: numeric(test.samples), noise: numeric(test.noise) ?? null, seconds: numeric(test.seconds) ?? null }));
}

/** The value that the brief's schema is asked about. */
export function briefInput(draft: BriefDraft): unknown {
  const sampling = {
    samples: numeric(draft.samples),
    secondsPerFrame: numeric(draft.secondsPerFrame),
    noise: numeric(draft.noise),
    tests: testsOf(draft),
    gradients: draft.gradients ?? undefined,
  };
  const handled = draft.handleHead.trim() !== '' || draft.handleTail.trim() !== '';
  return {
    ...draft.rest,
    shot: draft.shot,
    version: stated(draft.version),
    range: draft.range,
    fps: stated(draft.fps),
    // It is kept while another rate is tried, and says nothing there.
    dropFrame: (draft.dropFrame && hasDropFrame(draft.fps)) || undefined,
    duration: stated(draft.duration),
    handles: handled ? [numeric(draft.handleHead) ?? 0, numeric(draft.handleTail) ?? 0] : undefined,
    loop: draft.loop || undefined,
    allPassesAtOnce: draft.allPassesAtOnce || undefined,
    test: stated(draft.test),
    cuts: stated(draft.cuts),
    resolution: numbers(draft.width, draft.height),
    pixelAspect: numeric(draft.pixelAspect),
    scale: numeric(draft.scale),
    crop: list(draft.crop)?.map((word) => numeric(word)),
    sampling: Object.values(sampling).every((value) => value === undefined) ? undefined : sampling,
    naming: stated(draft.naming),
    sound: draft.sound ?? undefined,
    follows: stated(draft.follows),
    passes: draft.passes.map((pass) => ({
      ...pass.rest,
      name: pass.name,
      role: stated(pass.role),
      pattern: pass.pattern,
      range: stated(pass.range),
      channels: list(pass.channels),
      depth: stated(pass.depth),
      compression: list(pass.compression),
      alpha: stated(pass.alpha),
      colourSpace: stated(pass.colourSpace),
      denoisedFrom: stated(pass.denoisedFrom),
      watch: pass.watch ?? undefined,
    })),
  };
}

/** The brief that a draft states, or what is wrong with it by field, such as `passes.0.pattern`. */
export function readDraft(draft: BriefDraft): { brief: Brief | null; problems: Record<string, string> } {
  const parsed = briefSchema.safeParse(JSON.parse(JSON.stringify(briefInput(draft))));
  return parsed.success ? { brief: parsed.data, problems: {} } : { brief: null, problems: fieldMessages(parsed.error) };
}
