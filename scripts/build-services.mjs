// Bundles everything that runs in Node besides the web server into build/services, one file an
// entry. Packages from node_modules stay outside. Runs in well under a second, so the tests use
// these same bundles for worker threads.
import { spawnSync } from 'node:child_process';
import { copyFile, mkdtemp, readdir, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { build } from 'esbuild';

const shared = {
  bundle: true,
  platform: 'node',
  target: 'node20',
  sourcemap: true,
  // Blanks and comments take time to read at every start; traces name the sources all the same.
  minifyWhitespace: true,
  // What is bundled begins sooner: a package of hundreds of files takes a tenth of a second to load.
  external: ['@hono/node-server', 'hono', 'mysql2', 'mysql2/*', 'opentype.js', 'papaparse', 'pdfkit', 'piscina', 'sharp', 'tar-stream', 'xxhash-wasm'],
  loader: { '.sql': 'text' },
  logLevel: 'warning',
};

const { metafile } = await build({
  entryPoints: {
    check: 'packages/engine/src/check/main.ts',
    assay: 'packages/engine/src/assaying/main.ts',
    denoise: 'packages/engine/src/denoising/main.ts',
    mend: 'packages/engine/src/mending/main.ts',
    package: 'packages/engine/src/packaging/package-main.ts',
    verify: 'packages/engine/src/packaging/verify-main.ts',
    movie: 'packages/engine/src/movies/main.ts',
    sheet: 'packages/engine/src/contact-sheets/main.ts',
    bench: 'packages/launch/src/bench/main.ts',
    'bench-frames': 'packages/launch/src/bench/rendered/main.ts',
    'bench-pages': 'packages/launch/src/bench/pages/main.ts',
    'bench-denoise': 'packages/launch/src/bench/denoise/main.ts',
    'bench-truth': 'packages/launch/src/bench/truth/main.ts',
    falls: 'packages/launch/src/falls/main.ts',
    engine: 'packages/engine/src/process/main.ts',
    start: 'packages/launch/src/main.ts',
    farm: 'packages/standin-farm/src/service/main.ts',
    'render-worker': 'packages/standin-farm/src/nodes/render-worker.ts',
    'web-server': 'packages/launch/src/web/main.ts',
    'measure-worker': 'packages/engine/src/measuring/measure-worker.ts',
    'assay-worker': 'packages/engine/src/assaying/assay-worker.ts',
    'frame-worker': 'packages/engine/src/drawing/frame-worker.ts',
    'make-worker': 'packages/engine/src/mending/make-worker.ts',
    'denoise-worker': 'packages/engine/src/denoising/denoise-worker.ts',
    'propose-worker': 'packages/engine/src/proposing/propose-worker.ts',
    'picture-worker': 'packages/engine/src/pictures/picture-worker.ts',
    'inspect-worker': 'packages/engine/src/inspection/inspect-worker.ts',
  },
  outdir: 'build/services',
  ...shared,
  splitting: true,
  format: 'esm',
  metafile: true,
});

// Pieces of older builds, which nothing names any more.
const made = new Set(Object.keys(metafile.outputs).map((file) => path.basename(file)));
const old = (await readdir('build/services')).filter((name) => name.startsWith('chunk-') && !made.has(name));
await Promise.all(old.map((name) => rm(path.join('build/services', name))));

// The check in one piece, which check.js runs from code compiled here: one run over a sound frame of each usual format
// compiles what a check of frames needs.
await build({
  ...shared,
  entryPoints: { 'check-command': 'packages/engine/src/check/run.ts' },
  outdir: 'build/services',
  outExtension: { '.js': '.cjs' },
  format: 'cjs',
  define: { 'import.meta.url': 'bundleUrl' },
  // What is loaded only when it is needed is required then: code from a cache has no loader for import().
  supported: { 'dynamic-import': false },
});
const WARMING = ['exr/rgba_half_zip.exr', 'png/rgb16.png', 'tiff/rgb16_zip.tif'];
const folder = await mkdtemp(path.join(tmpdir(), 'mint-tally-build-'));
try {
  await Promise.all(WARMING.map((file) => copyFile(path.join('packages/core/fixtures', file), path.join(folder, `shot.1001${path.extname(file)}`))));
  const { status, stderr } = spawnSync(process.execPath, ['build/services/check.js', folder], { env: { ...process.env, MINT_TALLY_KEEP_CODE: '1' } });
  if (status !== 0) throw new Error(`The check did not run as built: it ended with ${status}. ${stderr}`);
} finally {
  await rm(folder, { recursive: true, force: true });
}
