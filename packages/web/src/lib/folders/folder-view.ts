import * as z from 'zod';

/** A folder as the picker shows it. */
export const folderViewSchema = z.object({
  root: z.string(),
  /** Relative to the root; empty for the root itself. */
  path: z.string(),
  folders: z.array(z.string()),
  /** Folders beyond those listed. */
  more: z.number(),
  files: z.number(),
});
export type FolderView = z.output<typeof folderViewSchema>;
