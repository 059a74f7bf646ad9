// Holds that what is taken from a list or a record by its place is not used as if it were certainly there
// (TypeScript's noUncheckedIndexedAccess): whoever knows it says so with a `!`, everybody else asks.
//
// Numbers are let through. Pixels, samples and tables by columns are typed arrays that loops go over by
// their length, thousands of times; a mark behind each would hide the few that say something.
//
// Usage: node scripts/check-lists.mjs TSCONFIG... ; ends with 1 and the places when some are left.
import path from 'node:path';
import ts from 'typescript';

const home = path.resolve(import.meta.dirname, '..');
const OUR_SOURCE = /\/packages\/([a-z-]+)\/src\//;

/** Whether a type holds numbers, and nothing but them, where it holds anything. */
function isNumber(type) {
  const nothing = ts.TypeFlags.Undefined | ts.TypeFlags.Null;
  return (type.flags & (ts.TypeFlags.NumberLike | nothing)) !== 0 || (type.isUnion() && type.types.every(isNumber));
}

/** The innermost piece of code that a diagnostic is about. */
function nodeOf(source, { start, length }) {
  let found = source;
  const look = (node) => {
    if (node.getStart(source) > start || node.end < start + length) return;
    found = node;
    ts.forEachChild(node, look);
  };
  look(source);
  return found;
}

/** Sources that another configuration has shown already: what they use is the same in all. */
const seen = new Set();

/** What is used unasked in the sources of the packages that a configuration names for itself. */
function unaskedIn(configFile) {
  const host = { ...ts.sys, onUnRecoverableConfigFileDiagnostic: (problem) => console.error(ts.flattenDiagnosticMessageText(problem.messageText, ' ')) };
  const config = ts.getParsedCommandLineOfConfigFile(configFile, { noUncheckedIndexedAccess: true, noEmit: true }, host);
  if (!config) throw new Error(`${configFile} cannot be read.`);
  const program = ts.createProgram(config.fileNames, config.options);
  const checker = program.getTypeChecker();
  const places = [];
  for (const source of program.getSourceFiles()) {
    if (!OUR_SOURCE.test(source.fileName) || source.fileName.includes('node_modules') || seen.has(source.fileName)) continue;
    seen.add(source.fileName);
    for (const problem of program.getSemanticDiagnostics(source)) {
      if (isNumber(checker.getTypeAtLocation(nodeOf(source, problem)))) continue;
      const { line } = source.getLineAndCharacterOfPosition(problem.start);
      places.push(`${path.relative(home, source.fileName)}:${line + 1}: ${ts.flattenDiagnosticMessageText(problem.messageText, ' ')}`);
    }
  }
  return places;
}

const places = process.argv.slice(2).flatMap((config) => unaskedIn(path.resolve(config)));
if (places.length > 0) {
  console.error(places.join('\n'));
  process.exit(1);
}
