// Starts the command from the code that V8 made of it when it was built. Reading and compiling it anew takes a fifth of
// the time that the check of a single frame takes, and that is what people wait for who ask after one file.
import { readFileSync, writeFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import path from 'node:path';
import { Script } from 'node:vm';

const file = path.join(import.meta.dirname, 'check-command.cjs');
const cache = path.join(import.meta.dirname, 'check-command.cache');

/** The code as it was kept; none is no fault, and one of another Node is turned down by V8 itself. */
function readCache(): Buffer | undefined {
  try {
    return readFileSync(cache);
  } catch {
    return undefined;
  }
}

function runKept(): void {
  const cachedData = process.env.MINT_TALLY_KEEP_CODE ? undefined : readCache();
  const script = new Script(`(function (require, bundleUrl) {${readFileSync(file, 'utf8')}\n})`, {
    filename: file,
    ...(cachedData && { cachedData }),
  });
  (script.runInThisContext() as (require: NodeJS.Require, url: string) => void)(createRequire(file), import.meta.url);
  // Asked for by the build: what was needed for one run is what was compiled.
  if (process.env.MINT_TALLY_KEEP_CODE) process.on('exit', () => writeFileSync(cache, script.createCachedData()));
}

// What measures is loaded where it is wanted alone.
if (process.argv.includes('--assay')) await import('./run-with-assay.ts');
else runKept();
