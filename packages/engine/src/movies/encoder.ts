import { execFile, spawn, type ChildProcess } from 'node:child_process';
import { once } from 'node:events';
import { promisify } from 'node:util';
import { MovieError } from '@mint-tally/core';

const LAST_WORDS = 2000;

/** An encoder that is fed pictures, one after the other. */
export class Encoder {
  private readonly process: ChildProcess;
  private readonly ended: Promise<number | null>;
  private words = '';
  private failure: Error | null = null;

  /** @param args for ffmpeg */
  constructor(args: readonly string[]) {
    this.process = spawn('ffmpeg', args, { stdio: ['pipe', 'ignore', 'pipe'] });
    this.process.stderr!.setEncoding('utf8').on('data', (text: string) => (this.words = (this.words + text).slice(-LAST_WORDS)));
    // A pipe that breaks says less than what the encoder said before it ended.
    this.process.stdin!.on('error', () => undefined);
    this.ended = new Promise((resolve) => {
      this.process.on('error', (error) => {
        this.failure = error;
        resolve(null);
      });
      this.process.on('close', (code) => resolve(code));
    });
  }

  /** Feeds a picture; resolves when there is room for the next. @throws MovieError when the encoder ended */
  async feed(picture: Uint8Array): Promise<void> {
    const { stdin } = this.process;
    if (this.hasEnded) return this.finish();
    if (!stdin!.write(picture)) await Promise.race([once(stdin!, 'drain').catch(() => undefined), this.ended]);
  }

  private get hasEnded(): boolean {
    return this.failure !== null || this.process.exitCode !== null || this.process.signalCode !== null || this.process.stdin!.destroyed;
  }

  /** Waits for the file to be whole. @throws MovieError */
  async finish(): Promise<void> {
    this.process.stdin!.end();
    const code = await this.ended;
    if (this.failure) throw notThere(this.failure);
    if (code === 0) return;
    const said = this.words.trim().split('\n').at(-1) ?? '';
    const how = this.process.signalCode ? `was stopped by ${this.process.signalCode}` : `ended with ${String(code)}`;
    throw new MovieError('encoder', `The encoder ${how}${said === '' ? '.' : `: ${said.replace(/\.?$/, '.')}`}`, remedyFor(said));
  }

  /** Ends it at once. */
  async kill(): Promise<void> {
    this.process.kill('SIGKILL');
    await this.ended;
  }
}

function remedyFor(said: string): string {
  if (/no space left/i.test(said)) return 'Make room, or write the movie elsewhere.';
  if (/unknown encoder/i.test(said)) return 'This ffmpeg has not been built with that codec: choose another.';
  return 'Choose another codec or size, or look at the sound file.';
}

const notThere = (thrown: Error) =>
  (thrown as NodeJS.ErrnoException).code === 'ENOENT'
    ? new MovieError('encoder', 'There is no ffmpeg on this machine.', 'Install the package ffmpeg; the commands of ./mint do so by themselves where they may.')
    : new MovieError('encoder', `The encoder cannot be started: ${thrown.message}.`, 'Look at the machine’s processes and memory.');

const run = promisify(execFile);

/** What a program prints, as bytes. @throws MovieError */
export async function bytesFrom(program: 'ffmpeg' | 'ffprobe', args: readonly string[], most: number): Promise<Buffer> {
  try {
    const { stdout } = await run(program, [...args], { encoding: 'buffer', maxBuffer: most + 1024 });
    return stdout;
  } catch (thrown) {
    const { code, stderr } = thrown as NodeJS.ErrnoException & { stderr?: Buffer };
    if (code === 'ENOENT') throw notThere(thrown as Error);
    const said = stderr?.toString().trim().split('\n').at(-1) ?? String(thrown);
    throw new MovieError(
      'movie',
      `The movie cannot be read back: ${said.replace(/\.?$/, '.')}`,
      'Nothing was kept of it. Make it again, or choose another codec.',
    );
  }
}
