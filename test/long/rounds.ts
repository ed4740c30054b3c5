/** The rounds of which many are played in a minute: `npm run soak`. `npm run test:long` plays them in full. */
import { answers } from './answers.js';
import { closing, conversation, outages } from './calls.js';
import { killed, registering } from './registering.js';
import type { Round } from './round.js';
import { agreement, crowds, processes } from './stores.js';

/** Those of which many are played in a minute. */
export const short: Readonly<Record<string, Round>> = {
  agreement: agreement(3000),
  conversation: conversation(200),
  answers: answers(200),
  closing: closing(500),
  outages,
  registering,
  processes: processes(3),
  killed: killed(3),
  crowds: crowds(50_000),
};
