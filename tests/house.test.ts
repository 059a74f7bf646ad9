import path from 'node:path';
import { ESLint } from 'eslint';
import { describe, expect, it } from 'vitest';

const home = path.resolve(import.meta.dirname, '..');
const eslint = new ESLint({ cwd: home });

/** The rules that a line breaks when it stands in a file of the house. */
async function broken(file: string, code: string): Promise<(string | null)[]> {
  const [result] = await eslint.lintText(code, { filePath: path.join(home, file) });
  return result.messages.map((message) => message.ruleId);
}

describe('imports run one way', () => {
  it.each([
    ['packages/core/src/x.ts', '@mint-tally/store'],
    ['packages/core/src/x.ts', 'node:fs'],
    ['packages/store/src/x.ts', '@mint-tally/engine'],
    ['packages/engine/src/x.ts', '@mint-tally/standin-farm'],
    ['packages/engine/src/x.ts', '../../web/src/x.ts'],
    ['packages/standin-farm/src/x.ts', '@mint-tally/engine'],
    ['packages/standin-farm/src/x.ts', '@mint-tally/store'],
    ['packages/web/src/x.ts', '@mint-tally/launch'],
    ['packages/web/src/x.ts', '@mint-tally/core/src/ranges/index.ts'],
  ])('%s may not import %s', async (file, imported) => {
    expect(await broken(file, `export * from '${imported}';\n`)).toContain('no-restricted-imports');
  });

  it.each([
    ['packages/store/src/x.ts', '@mint-tally/core'],
    ['packages/engine/src/x.ts', '@mint-tally/store'],
    ['packages/web/src/x.ts', '@mint-tally/engine'],
    ['packages/launch/src/x.ts', '@mint-tally/standin-farm'],
  ])('%s may import %s', async (file, imported) => {
    expect(await broken(file, `export * from '${imported}';\n`)).toEqual([]);
  });
});
