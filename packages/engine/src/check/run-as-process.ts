import type { CommandOutcome } from './command.ts';

/** Runs a command with the words behind this process: progress on a terminal's line that is cleared at the end, then what it says. */
export async function runAsProcess(run: (argv: readonly string[], onProgress: (text: string) => void) => Promise<CommandOutcome>): Promise<void> {
  const { isTTY } = process.stderr;
  const { status, output, error } = await run(process.argv.slice(2), (text) => isTTY && process.stderr.write(`\r${text} `));
  if (isTTY) process.stderr.write('\r\x1b[K');
  if (error) process.stderr.write(`${error}\n`);
  if (output) process.stdout.write(`${output}\n`);
  process.exitCode = status;
}
