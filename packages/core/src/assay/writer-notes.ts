import { readRenderNotes } from './render-notes.ts';

/** What a writer may have noted, whatever it called it. */
export const noteKinds = ['camera', 'host', 'renderer', 'version', 'samples', 'rate', 'colour space', 'timecode'] as const;
export type NoteKind = (typeof noteKinds)[number];

/** By the last word of a note's name, lower case, without separators. */
const NAMES: Record<Exclude<NoteKind, 'samples'>, RegExp> = {
  camera: /^(camera|cameraname|rendercamera|cam)$/,
  host: /^(hostcomputer|host|hostname|machine|machinename|node|nodename|rendernode)$/,
  renderer: /^(software|renderer|rendererversion|rendererversionnumber|creator|writer|application)$/,
  version: /^(version|shotversion|sceneversion|take)$/,
  rate: /^(framespersecond|framerate|fps)$/,
  'colour space': /^(colorspace|colourspace|colorinteropid|workingspace)$/,
  timecode: /^(timecode)$/,
};

/** Along a pass most files hold the same metadata, and one object for it. */
const known = new WeakMap<object, ReadonlyMap<NoteKind, string>>();

/** What a file's metadata notes of camera, machine, samples and the like, as text: the one place that knows what writers call them. */
export function notesOf(metadata: Readonly<Record<string, string | number>>): ReadonlyMap<NoteKind, string> {
  const before = known.get(metadata);
  if (before) return before;
  const notes = new Map<NoteKind, string>();
  for (const [name, value] of Object.entries(metadata)) {
    const word = (/[^/:.]+$/.exec(name)?.[0] ?? name).replace(/[\s_-]/g, '').toLowerCase();
    for (const kind of noteKinds) if (kind !== 'samples' && !notes.has(kind) && NAMES[kind].test(word)) notes.set(kind, String(value).trim());
  }
  const { samples } = readRenderNotes(metadata);
  if (samples !== null) notes.set('samples', String(samples));
  known.set(metadata, notes);
  return notes;
}
