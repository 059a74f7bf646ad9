import { runAsProcess } from '../check/run-as-process.ts';
import { runDenoise } from './command.ts';

await runAsProcess(runDenoise);
