import { mkdirSync, renameSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { renderFrame, type FrameSettings } from '../render/frame.ts';
import { encodePass, type FrameNotes, type PassFile } from './frame-files.ts';

/** One frame for a render node: what to render, and the files to write from it. */
export interface RenderTask {
  readonly folder: string;
  readonly settings: FrameSettings;
  readonly notes: FrameNotes;
  readonly files: readonly PassFile[];
}

/** The render nodes' work: renders a frame and writes its passes, each moved into place whole. */
export default function renderTask(task: RenderTask): void {
  const frame = renderFrame(task.settings);
  for (const file of task.files) {
    const target = path.join(task.folder, file.path);
    mkdirSync(path.dirname(target), { recursive: true });
    writeFileSync(`${target}.tmp`, encodePass(frame, file, task.notes));
    renameSync(`${target}.tmp`, target);
  }
}
