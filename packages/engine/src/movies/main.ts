import { runMovie } from './command.ts';

const { status, output, error } = await runMovie(process.argv.slice(2), (text) => process.stderr.isTTY && process.stderr.write(`\r${text} `));
if (process.stderr.isTTY) process.stderr.write('\r\x1b[K');
if (error) process.stderr.write(`${error}\n`);
if (output) process.stdout.write(`${output}\n`);
process.exitCode = status;
