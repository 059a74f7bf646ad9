import { runAsProcess } from '../check/run-as-process.ts';
import { runVerify } from './verify-command.ts';

await runAsProcess(runVerify);
