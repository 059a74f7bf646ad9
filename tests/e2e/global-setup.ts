import { startSharedServer } from '../support/shared-server.ts';
import { SHARED_DATABASE } from './application.ts';

/** The database server of every application in the tests that does not start one of its own. */
export default async function setup() {
  const server = await startSharedServer();
  process.env[SHARED_DATABASE] = server.url;
  return server.stop;
}
