import { runAsProcess } from '../check/run-as-process.ts';
import { runMend } from './command.ts';

await runAsProcess(runMend);
