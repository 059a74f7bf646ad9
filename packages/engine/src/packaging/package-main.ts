import { runAsProcess } from '../check/run-as-process.ts';
import { runPackage } from './package-command.ts';

await runAsProcess(runPackage);
