import { readdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { ESLint, type Linter } from 'eslint';
import ts from 'typescript-eslint';
import { describe, expect, it } from 'vitest';

const home = path.resolve(import.meta.dirname, '..');
// The files tried here are in no program, so nothing is known of their types.
const eslint = new ESLint({ cwd: home, overrideConfig: ts.configs.disableTypeChecked as Linter.Config });

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

/** Every source file below a folder, with its text. */
function sourcesBelow(folder: string): { file: string; text: string }[] {
  return readdirSync(path.join(home, folder), { recursive: true, withFileTypes: true })
    .filter((entry) => entry.isFile() && /\.(ts|svelte)$/.test(entry.name))
    .map((entry) => path.join(entry.parentPath, entry.name))
    .map((file) => ({ file, text: readFileSync(file, 'utf8') }));
}

const importsOf = (text: string) => [...text.matchAll(/(?:from|import)\s+'([^']+)'/g)].map(([, imported]) => imported);

describe('the rooms of the core', () => {
  /** For each room those that it asks for something, types included. */
  function roomsAsked(): Map<string, Set<string>> {
    const core = path.join(home, 'packages/core/src');
    const asked = new Map<string, Set<string>>();
    for (const { file, text } of sourcesBelow('packages/core/src')) {
      const [room, ...rest] = path.relative(core, file).split(path.sep);
      if (rest.length === 0) continue;
      for (const imported of importsOf(text)) {
        const [other, ...deeper] = path.relative(core, path.resolve(path.dirname(file), imported)).split(path.sep);
        if (deeper.length > 0 && other !== room && other !== '..') asked.set(room, (asked.get(room) ?? new Set()).add(other));
      }
    }
    return asked;
  }

  it('ask one another in no circle', () => {
    const asked = roomsAsked();
    expect(asked.size).toBeGreaterThan(5);
    const circles: string[] = [];
    const visit = (room: string, way: readonly string[]) => {
      if (way.includes(room)) circles.push([...way.slice(way.indexOf(room)), room].join(' -> '));
      else for (const next of asked.get(room) ?? []) visit(next, [...way, room]);
    };
    for (const room of asked.keys()) visit(room, []);
    expect(circles).toEqual([]);
  });

  it('are asked through their index by each other', () => {
    const core = path.join(home, 'packages/core/src');
    const past = sourcesBelow('packages/core/src').flatMap(({ file, text }) => {
      const [room] = path.relative(core, file).split(path.sep);
      return importsOf(text)
        .map((imported) => path.relative(core, path.resolve(path.dirname(file), imported)))
        .filter(
          (target) => target.includes(path.sep) && !target.startsWith('..') && target.split(path.sep)[0] !== room && !target.endsWith(`${path.sep}index.ts`),
        )
        .map((target) => `${path.relative(core, file)} imports ${target}`);
    });
    expect(past).toEqual([]);
  });
});

describe('a package', () => {
  it.each(['core', 'disk', 'engine', 'launch', 'standin-farm', 'store', 'web'])('%s declares the packages of ours that it imports', (name) => {
    const { dependencies = {} } = JSON.parse(readFileSync(path.join(home, 'packages', name, 'package.json'), 'utf8')) as {
      dependencies?: Record<string, string>;
    };
    const imported = new Set(sourcesBelow(`packages/${name}/src`).flatMap(({ text }) => importsOf(text).filter((one) => one.startsWith('@mint-tally/'))));
    imported.delete(`@mint-tally/${name}`);
    expect(
      Object.keys(dependencies)
        .filter((one) => one.startsWith('@mint-tally/'))
        .sort(),
    ).toEqual([...imported].sort());
  });

  it.each(['core', 'disk', 'engine', 'launch', 'standin-farm', 'store'])('%s names nothing to others that none of them asks for', (name) => {
    const own = path.join(home, 'packages', name, 'src') + path.sep;
    const others = ['packages', 'tests', 'scripts'].flatMap(sourcesBelow).filter(({ file }) => !file.startsWith(own) && !/node_modules|svelte-kit/.test(file));
    const asked = new Set(others.flatMap(({ text }) => text.match(/\w+/g) ?? []));
    const index = readFileSync(path.join(own, 'index.ts'), 'utf8');
    const named = [...index.matchAll(/export (?:type )?\{([^}]*)\}/g)].flatMap(([, list]) => list.match(/\w+/g) ?? []).filter((word) => word !== 'type');
    expect(named.length).toBeGreaterThan(2);
    expect(named.filter((one) => !asked.has(one))).toEqual([]);
  });
});
