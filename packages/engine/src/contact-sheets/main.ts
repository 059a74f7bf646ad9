import { runAsProcess } from '../check/run-as-process.ts';
import { runSheet } from './command.ts';

await runAsProcess(runSheet);
