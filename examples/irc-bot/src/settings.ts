/** What the bot is told: by flags, else by the environment, else by a file. Passwords come by the environment alone. */
import { readFileSync } from 'node:fs';
import { Command, Option } from 'commander';
import type { Key } from 'taxeon';
import * as v from 'valibot';
import { parse } from 'yaml';

const aPort = 'give a whole number from 1 to 65535';

function isKey(value: unknown): boolean {
  return typeof value === 'string' && /^[^/]+\/.+$/.test(value);
}

const channel = v.strictObject({
  tools: v.picklist(['oddmere', 'pellbrook', 'workbench']),
  key: v.optional(v.string()),
  prefixes: v.optional(v.array(v.string())),
  locale: v.optional(v.string()),
  timeZone: v.optional(v.string()),
});

const file = v.strictObject({
  host: v.string(),
  port: v.optional(v.pipe(v.number(aPort), v.integer(aPort), v.minValue(1, aPort), v.maxValue(65_535, aPort))),
  tls: v.optional(v.boolean(), false),
  nick: v.string(),
  account: v.optional(v.string()),
  identity: v.optional(v.picklist(['account', 'user@host']), 'account'),
  owners: v.optional(v.array(v.custom<Key>(isKey, 'write platform/id, as in irc/odalys')), []),
  store: v.string(),
  channels: v.record(v.string(), channel),
});

export type ChannelSettings = v.InferOutput<typeof channel>;

export interface Settings extends v.InferOutput<typeof file> {
  /** Whether commands are read anew when their files change. */
  readonly watch: boolean;
  /** The channel that a console in the terminal is about, where there is one. */
  readonly console: string | undefined;
  readonly password: string | undefined;
  readonly accountPassword: string | undefined;
}

/** A sentence that says what is wrong with the settings. */
export class SettingsError extends Error {}

const ownFile = new URL('../irc-bot.yaml', import.meta.url).pathname;

interface Flags {
  readonly config: string;
  readonly host?: string;
  readonly port?: string;
  readonly tls?: boolean;
  readonly nick?: string;
  readonly account?: string;
  readonly store?: string;
  readonly channel?: readonly string[];
  readonly watch: boolean;
  readonly console?: string;
}

/** @throws SettingsError where the file cannot be read, or a setting is not right. */
export function readSettings(argv: readonly string[], env: NodeJS.ProcessEnv): Settings {
  const { config, channel: only, port, watch, console, ...flags } = flagsOf(argv);
  const written = fromFile(config);
  const own = { ...written, ...flags, ...(port === undefined ? {} : { port: Number(port) }) };
  const { success, output, issues } = v.safeParse(file, own);
  if (!success) {
    throw new SettingsError(issues.map((issue) => `${v.getDotPath(issue) ?? config}: ${issue.message}`).join('\n'));
  }
  const channels = only === undefined ? output.channels : channelsNamed(only, output.channels);
  if (console !== undefined && !Object.hasOwn(channels, console))
    throw new SettingsError(`--console: ${console} is none of ${Object.keys(channels).join(', ')}`);
  return {
    ...output,
    watch,
    console,
    channels,
    password: env['IRC_PASSWORD'] || undefined,
    accountPassword: env['IRC_ACCOUNT_PASSWORD'] || undefined,
  };
}

function flagsOf(argv: readonly string[]): Flags {
  return new Command('irc-bot')
    .description('Mallet on IRC')
    .addOption(new Option('--config <file>', 'a file with all settings').env('IRC_CONFIG').default(ownFile))
    .addOption(new Option('--host <host>', 'the server').env('IRC_HOST'))
    .addOption(new Option('--port <port>', 'its port').env('IRC_PORT'))
    .addOption(new Option('--tls', 'connect by TLS').env('IRC_TLS'))
    .addOption(new Option('--nick <nick>', "the bot's nick").env('IRC_NICK'))
    .addOption(new Option('--account <account>', "the bot's account").env('IRC_ACCOUNT'))
    .addOption(new Option('--store <file>', 'where it keeps what must survive a restart').env('IRC_STORE'))
    .addOption(new Option('--channel <channel...>', 'only these channels'))
    .addOption(new Option('--console <channel>', 'a console in this terminal, about a channel; the log goes to stderr'))
    .addOption(new Option('--watch', 'read commands anew when their files change').default(false))
    .parse(argv)
    .opts<Flags>();
}

function fromFile(path: string): object {
  try {
    return Object(parse(readFileSync(path, 'utf8')));
  } catch (error) {
    throw new SettingsError(`${path}: ${error instanceof Error ? error.message : error}`);
  }
}

/** A channel that the file does not name lends what Oddmere has. */
function channelsNamed(names: readonly string[], known: Settings['channels']): Settings['channels'] {
  return Object.fromEntries(names.map((name) => [name, known[name] ?? { tools: 'oddmere' as const }]));
}
