/** `taxeon demo`: a scripted afternoon, printed as a conversation. */
import { readFile } from 'node:fs/promises';
import { parse } from 'yaml';
import { virtualClock } from '../testing/clock.js';
import { checkTryout, type Played, playTryout } from '../testing/tryout.js';
import { messageOf, UsageError } from './errors.js';
import { demoFile, openDemo } from './open.js';
import { createConversationPrinter } from './print-conversation.js';

const SCRIPT = 'data/afternoon.tryout.yaml';

/** Plays the demo; gives the exit status: 0 only where every outcome was the expected one. */
export async function playDemo(): Promise<number> {
  const tryout = await readScript();
  const clock = virtualClock(Date.parse(tryout.begins));
  const rehearsal = await openDemo(clock);
  const printer = createConversationPrinter(rehearsal.platform, (line) => console.log(line));
  const played: Played[] = [];
  printer.title(tryout.tryout, clock.now());
  for await (const step of playTryout(tryout, rehearsal, clock)) {
    played.push(step);
    printer.step(step);
  }
  return printer.summary(played) ? 0 : 1;
}

async function readScript() {
  try {
    return checkTryout(parse(await readFile(demoFile(SCRIPT), 'utf8')));
  } catch (error) {
    throw new UsageError(`The demo's script ${SCRIPT} does not read: ${messageOf(error)}`);
  }
}
