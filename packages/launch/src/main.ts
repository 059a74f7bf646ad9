import { start } from './start.ts';

process.exitCode = await start();
