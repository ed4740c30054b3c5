/** `taxeon demo`: a scripted afternoon, printed as a conversation. */
import { readFile } from 'node:fs/promises';
import { virtualClock } from '@taxeon/testing';
import { checkTryout, keptLog, type Played, playTryout } from '@taxeon/testing/tryouts';
import type { Store } from 'taxeon';
import { liveUsesIn } from 'taxeon/queries';
import { parse } from 'yaml';
import { demoFile } from './config.js';
import { errorMessage, UsageError } from './errors.js';
import { openDemo } from './open.js';
import { openStore } from './open-store.js';
import { print } from './print.js';
import { createConversationPrinter } from './print-conversation.js';

const SCRIPT = 'data/afternoon.tryout.yaml';

export interface DemoOptions {
  /** Where to keep what the afternoon counts, so that it can be looked at afterwards. */
  readonly store?: string;
}

/** Plays the demo; gives the exit status: 0 only where every outcome was the expected one. */
export async function playDemo({ store: path }: DemoOptions = {}): Promise<number> {
  const tryout = await readScript();
  const clock = virtualClock(Date.parse(tryout.begins) - BEFORE_MS);
  const log = keptLog();
  const store = path === undefined ? undefined : await openStore(path, clock);
  const rehearsal = await openDemo({ clock, log, ...(store === undefined ? {} : { store }) });
  const isAgain = store !== undefined && (await beginAnew(store));
  clock.advance(BEFORE_MS);
  const printer = createConversationPrinter(rehearsal.platform);
  const played: Played[] = [];
  printer.title(tryout.tryout, clock.now());
  if (isAgain) {
    print(
      `\n  ${path} knows this afternoon already: its cooldowns and its guilds’ settings begin anew, its usage counts go on.`,
    );
  }
  for await (const step of playTryout(tryout, rehearsal, clock, log)) {
    played.push(step);
    printer.step(step);
  }
  await rehearsal.layer.close();
  await store?.close();
  return printer.summary(played) ? 0 : 1;
}

/** How long before the afternoon the store is cleared. */
const BEFORE_MS = 1000;

/** Forgets what an earlier afternoon has left of limits and settings, which would refuse this one; whether there was any. */
async function beginAnew(store: Store): Promise<boolean> {
  const live = await liveUsesIn(store);
  for (const { id, key } of live) await store.reset(id, key);
  const settings = await store.entries('settings/');
  for (const [key, value] of settings) {
    const { version = 0 } = (await store.read(key)) ?? {};
    await store.compareAndSet(key, version, value, BEFORE_MS / 2);
  }
  return live.length + settings.length > 0;
}

async function readScript() {
  try {
    return checkTryout(parse(await readFile(demoFile(SCRIPT), 'utf8')));
  } catch (error) {
    throw new UsageError(`The demo's script ${SCRIPT} does not read: ${errorMessage(error)}`);
  }
}
