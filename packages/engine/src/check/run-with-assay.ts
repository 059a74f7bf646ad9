import { runCheck } from './command.ts';
import { runAsProcess } from './run-as-process.ts';
import { assayLooking } from './with-assay.ts';

await runAsProcess((argv) => runCheck(argv, assayLooking));
