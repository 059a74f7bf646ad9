import { runAsProcess } from '../check/run-as-process.ts';
import { runMovie } from './command.ts';

await runAsProcess(runMovie);
