// Compiles the kernels (packages/core/kernels) to WebAssembly and writes them as a module that every
// bundler and runtime can import: no file has to be found or fetched when the application runs.
import { writeFile } from 'node:fs/promises';
import path from 'node:path';
import asc from 'assemblyscript/asc';

const core = path.resolve(import.meta.dirname, '../packages/core');
let compiled = null;
const { error, stderr } = await asc.main(
  [
    'index.ts',
    '--baseDir',
    path.join(core, 'kernels'),
    '--outFile',
    'kernels.wasm',
    '-O3',
    '--converge',
    '--noAssert',
    '--runtime',
    'stub',
    '--enable',
    'simd',
    '--use',
    'abort=',
  ],
  {
    writeFile: (name, contents) => {
      if (name.endsWith('.wasm')) compiled = contents;
    },
  },
);
if (error || !compiled) {
  process.stderr.write(stderr.toString());
  process.exit(1);
}
await writeFile(
  path.join(core, 'src/kernels/compiled.ts'),
  `// Made by scripts/build-kernels.mjs; not to be changed by hand.\nexport const COMPILED_KERNELS =\n  '${Buffer.from(compiled).toString('base64')}';\n`,
);
