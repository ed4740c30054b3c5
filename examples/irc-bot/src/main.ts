/** Mallet on IRC: a channel is a library, its operators are stewards, the voiced are borrowers. */
import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import type { DemoData } from '@oddmere/tool-library';
import { malletFromFolder } from '@oddmere/tool-library/from-folder';
import { fileStore } from '@taxeon/file-store';
import { type IrcPlatform, irc } from '@taxeon/irc';
import { type Logger, pino } from 'pino';
import { consolePlatform } from 'taxeon/console';
import { PlatformError } from 'taxeon/platform';
import { complete } from 'taxeon/queries';
import { parse } from 'yaml';
import { readSettings, type Settings, SettingsError } from './settings.js';

const HEALTH_EVERY_MS = 300_000;
/** What the operators of a channel may do, and the bot's console. */
const stewards = ['borrow', 'certify', 'fine', 'remind', 'announce', 'manage', 'give-badges', 'post-notices'];

try {
  const settings = readSettings(process.argv, process.env);
  // With a console, standard output is what the console says.
  await run(settings, pino({ name: 'mallet', base: null }, pino.destination(settings.console === undefined ? 1 : 2)));
} catch (error) {
  if (!(error instanceof SettingsError) && !(error instanceof PlatformError) && !(error instanceof TypeError))
    throw error;
  console.error(`irc-bot: ${error.message}`);
  process.exitCode = 2;
}

async function run(settings: Settings, log: Logger): Promise<void> {
  const store = fileStore({ path: settings.store, log });
  const platform = platformFor(settings, log);
  const { layer, modules } = await malletFromFolder(dataFor(settings), {
    store,
    log,
    owners: settings.owners,
    console: { can: stewards, ownsBot: true, outranks: 'everyone' },
  });
  await modules.open();
  if (settings.watch) modules.watch();

  // A health line at each change of the link or of a channel, and now and then.
  let last = '';
  const tellHealth = () => log.info({ ...platform.state() }, 'Health');
  platform.watch(({ link, nick, channels }) => {
    const now = JSON.stringify([link, nick, channels]);
    if (now !== last) tellHealth();
    last = now;
  });
  const health = setInterval(tellHealth, HEALTH_EVERY_MS);

  let isLeaving = false;
  async function leave(signal: NodeJS.Signals): Promise<void> {
    if (isLeaving) return;
    isLeaving = true;
    log.info({ signal }, 'Leaving');
    clearInterval(health);
    // Running calls have their say; then the link is closed with the last words, and the store last of all.
    await layer.close({ within: '5s' });
    await platform.close();
    await store.close();
  }
  for (const signal of ['SIGINT', 'SIGTERM'] as const) process.on(signal, () => void leave(signal));

  try {
    await platform.serve(layer);
    const { nick, channels } = platform.state();
    for (const { name, status } of channels) log.info({ nick, channel: name, status }, 'Ready');
    if (settings.console !== undefined)
      await consolePlatform({ about: platform, guild: settings.console.toLowerCase(), completion: complete }).serve(
        layer,
      );
  } catch (error) {
    // Told to leave while it waited for the network.
    if (isLeaving) return;
    await leave('SIGTERM');
    throw error;
  }
}

function platformFor(settings: Settings, log: Logger): IrcPlatform {
  const { host, port, tls, nick, password, account, accountPassword, identity, channels } = settings;
  return irc({
    host,
    ...(port === undefined ? {} : { port }),
    tls,
    nick,
    ...(password === undefined ? {} : { password }),
    ...(account === undefined || accountPassword === undefined
      ? {}
      : { login: { by: 'plain', account, password: accountPassword } }),
    identity,
    channels: Object.entries(channels).map(([name, { key }]) => ({ name, ...(key === undefined ? {} : { key }) })),
    modes: {
      o: { rank: 30, role: 'steward', permissions: stewards },
      v: { rank: 10, role: 'borrower', permissions: ['borrow'] },
    },
    lastWords: 'Back in a minute',
    log,
  });
}

/** Mallet's demo data, with the channels as guilds. */
function dataFor({ channels }: Settings): Omit<DemoData, 'world'> {
  const file = createRequire(import.meta.url).resolve('@oddmere/tool-library/data/oddmere.yaml');
  const { tools }: DemoData = parse(readFileSync(file, 'utf8'));
  const all = Object.entries(channels).map(([name, one]) => ({ id: name.toLowerCase(), ...one }));
  return {
    roles: {},
    tools: Object.fromEntries(all.map(({ id, tools: from }) => [id, tools[from] ?? []])),
    boards: all.map(({ id }) => ({ platform: 'irc', guild: { id, name: id }, channel: { id, name: id } })),
    guilds: Object.fromEntries(
      all.map(({ id, prefixes, locale, timeZone }) => [
        `irc/${id}`,
        {
          ...(prefixes === undefined ? {} : { prefixes }),
          ...(locale === undefined ? {} : { locale }),
          ...(timeZone === undefined ? {} : { timeZone }),
        },
      ]),
    ),
  };
}
