import { runCheck } from './command.ts';

const { status, output, error } = await runCheck(process.argv.slice(2));
if (error) process.stderr.write(`${error}\n`);
if (output) process.stdout.write(`${output}\n`);
process.exitCode = status;
