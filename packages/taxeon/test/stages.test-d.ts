/** A stage that only refuses can be left out; one that others build on cannot. */
import { test } from 'vitest';
import { access } from '../src/pipeline/access.js';
import { intake } from '../src/pipeline/intake.js';
import { limits } from '../src/pipeline/limits.js';
import { match } from '../src/pipeline/match.js';
import { reach } from '../src/pipeline/reach.js';
import { read } from '../src/pipeline/read.js';
import { reply } from '../src/pipeline/reply.js';
import { resolve } from '../src/pipeline/resolve.js';
import { run } from '../src/pipeline/run.js';
import { settle } from '../src/pipeline/settle.js';
import { inOrder } from '../src/pipeline/stages.js';
import { standing } from '../src/pipeline/standing.js';

test('those that only refuse can be left out', () => {
  inOrder(intake, match, resolve, access, read, standing, limits, run, reply, settle);
  inOrder(intake, match, resolve, reach, read, standing, limits, run, reply, settle);
  inOrder(intake, match, resolve, reach, access, read, limits, run, reply, settle);
  inOrder(intake, match, resolve, reach, access, read, standing, run, reply, settle);
  inOrder(intake, match, resolve, read, run, reply, settle);
});

test('those that others build on cannot', () => {
  // @ts-expect-error there is no second gate
  inOrder(intake, resolve, reach, access, read, standing, limits, run, reply, settle);
  // @ts-expect-error nothing says which command is meant
  inOrder(intake, match, reach, access, read, standing, limits, run, reply, settle);
  // @ts-expect-error nothing has read the arguments
  inOrder(intake, match, resolve, reach, access, standing, limits, run, reply, settle);
  // @ts-expect-error nothing runs the handler
  inOrder(intake, match, resolve, reach, access, read, standing, limits, reply, settle);
  // @ts-expect-error nothing is said
  inOrder(intake, match, resolve, reach, access, read, standing, limits, run, settle);
  // @ts-expect-error there is no outcome
  inOrder(intake, match, resolve, reach, access, read, standing, limits, run, reply);
  // @ts-expect-error the limits are taken behind the arguments
  inOrder(intake, match, resolve, limits, reach, access, read, standing, run, reply, settle);
});
