import { runCheck } from './command.ts';

void runCheck(process.argv.slice(2)).then(({ status, output, error }) => {
  if (error) process.stderr.write(`${error}\n`);
  if (output) process.stdout.write(`${output}\n`);
  process.exitCode = status;
});
