import type { TestProject } from 'vitest/node';
import { startSharedServer } from './shared-server.ts';

declare module 'vitest' {
  interface ProvidedContext {
    databaseUrl: string;
  }
}

/** The database of all tests of the services. */
export default async function setup(project: TestProject) {
  const server = await startSharedServer();
  project.provide('databaseUrl', server.url);
  return server.stop;
}
