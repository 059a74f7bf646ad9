import { runAsProcess } from '../check/run-as-process.ts';
import { runAssay } from './command.ts';

await runAsProcess(runAssay);
