import { readRenderNotes } from '../../assay/index.ts';

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

/** The notes of a file's metadata that are compared along a pass, as text. */
export function notesOf(metadata: Readonly<Record<string, string | number>>): Map<NoteKind, string> {
  const notes = new Map<NoteKind, string>();
  for (const [name, value] of Object.entries(metadata)) {
    const word = (/[^/:.]+$/.exec(name)?.[0] ?? name).replace(/[\s_-]/g, '').toLowerCase();
    for (const kind of noteKinds) if (kind !== 'samples' && !notes.has(kind) && NAMES[kind].test(word)) notes.set(kind, String(value).trim());
  }
  const { samples } = readRenderNotes(metadata);
  if (samples !== null) notes.set('samples', String(samples));
  return notes;
}
