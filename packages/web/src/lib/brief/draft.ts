import { briefSchema, fieldMessages, type Brief, type BriefPass } from '@mint-tally/core';

/** A brief as it is typed: every entry a text. */
export interface BriefDraft {
  shot: string;
  note: string;
  range: string;
  fps: string;
  width: string;
  height: string;
  pixelAspect: string;
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
  rest: Partial<BriefPass>;
}

let nextKey = 1;

export function newPass(name = '', pattern = ''): PassDraft {
  return { key: nextKey++, name, role: '', pattern, range: '', channels: '', depth: '', compression: '', alpha: '', rest: {} };
}

/** A brief to begin with where nothing is there to propose one. */
export function emptyDraft(shot: string): BriefDraft {
  return {
    shot,
    note: '',
    range: '',
    fps: '24',
    width: '',
    height: '',
    pixelAspect: '',
    passes: [newPass('beauty', `beauty/${shot || 'shot'}_beauty.####.exr`)],
    rest: {},
  };
}

/** Opens a brief for editing. */
export function draftOf(brief: Brief, note: string): BriefDraft {
  const { shot, range, fps, resolution, pixelAspect, passes, ...rest } = brief;
  return {
    shot,
    note,
    range,
    fps: fps ?? '',
    width: resolution ? String(resolution[0]) : '',
    height: resolution ? String(resolution[1]) : '',
    pixelAspect: pixelAspect === undefined ? '' : String(pixelAspect),
    rest,
    passes: passes.map(({ name, role, pattern, range: passRange, channels, depth, compression, alpha, ...passRest }) => ({
      key: nextKey++,
      name,
      role: role ?? '',
      pattern,
      range: passRange ?? '',
      channels: channels?.join(' ') ?? '',
      depth: depth ?? '',
      compression: compression?.join(' ') ?? '',
      alpha: alpha ?? '',
      rest: passRest,
    })),
  };
}

const words = (text: string) => text.split(/[\s,]+/).filter((word) => word !== '');
/** What is left empty is not stated, so it is not checked. */
const stated = (text: string) => (text.trim() === '' ? undefined : text.trim());
const list = (text: string) => (words(text).length === 0 ? undefined : words(text));
/** A number, or the text itself where it is none, for the schema to tell. */
const numeric = (text: string) => (text.trim() === '' ? undefined : Number.isNaN(Number(text)) ? text : Number(text));

/** The value that the brief's schema is asked about. */
export function briefInput(draft: BriefDraft): unknown {
  const sized = draft.width.trim() !== '' || draft.height.trim() !== '';
  return {
    ...draft.rest,
    shot: draft.shot,
    range: draft.range,
    fps: stated(draft.fps),
    resolution: sized ? [numeric(draft.width), numeric(draft.height)] : undefined,
    pixelAspect: numeric(draft.pixelAspect),
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
    })),
  };
}

/** What is wrong with a draft, by field, such as `passes.0.pattern`. */
export function draftProblems(draft: BriefDraft): Record<string, string> {
  const parsed = briefSchema.safeParse(JSON.parse(JSON.stringify(briefInput(draft))));
  return parsed.success ? {} : fieldMessages(parsed.error);
}
