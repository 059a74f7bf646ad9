import { existsSync } from 'node:fs';
import path from 'node:path';
import { fileURLToPath } from 'node:url';

/**
 * The folder that the application was installed in: the one that holds `./mint`. The start script
 * names it; elsewhere (tests, tools) it is found by walking up from this code.
 */
export function projectFolder(): string {
  if (process.env.MINT_TALLY_HOME) return process.env.MINT_TALLY_HOME;
  let folder = path.dirname(fileURLToPath(import.meta.url));
  while (!existsSync(path.join(folder, 'mint'))) {
    const parent = path.dirname(folder);
    if (parent === folder) return process.cwd();
    folder = parent;
  }
  return folder;
}

/** Where the bundled services and their worker threads lie; made by `npm run build:services`. */
export function servicesFolder(): string {
  return path.join(projectFolder(), 'build', 'services');
}
