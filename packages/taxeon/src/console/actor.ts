/** Who sits at the console of this process. */
import { hostname } from 'node:os';
import type { ConsoleActor } from '../contract/actors.js';

/**
 * Another one in each process: what one console is asked is not answered at another, and no person of a platform has
 * an id of this form.
 */
export const consoleActor: ConsoleActor = {
  kind: 'console',
  id: `console:${hostname()}:${process.pid}`,
  name: 'console',
};
