/** Mallet on an IRC channel: the channel is the library, operators are stewards, the voiced are borrowers. */
import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { type DemoData, mallet } from '@oddmere/tool-library';
import { Command } from 'commander';
import { PlatformError } from 'taxeon';
import { irc } from 'taxeon/irc';
import { parse } from 'yaml';

interface Options {
  readonly host: string;
  readonly port: number;
  readonly nick: string;
  readonly channel: string;
}

const { host, port, nick, channel } = new Command('irc-bot')
  .description('Mallet on an IRC channel')
  .option('--host <host>', 'the IRC server', 'localhost')
  .option('--port <port>', 'its port', wholePort, 6667)
  .option('--nick <nick>', "the bot's nick", 'Mallet')
  .option('--channel <channel>', 'the channel to join', '#oddmere')
  .parse()
  .opts<Options>();

const file = createRequire(import.meta.url).resolve('@oddmere/tool-library/data/oddmere.yaml');
const { tools }: DemoData = parse(readFileSync(file, 'utf8'));
const home = channel.toLowerCase();
const layer = mallet({ guilds: {}, roles: {}, tools: { [home]: tools['oddmere'] ?? [] } });

const platform = irc({
  host,
  port,
  nick,
  channels: [channel],
  // Without services, user@host is the most that the server can prove.
  identity: 'user@host',
  modes: {
    o: {
      rank: 30,
      role: 'steward',
      permissions: ['borrow', 'certify', 'fine', 'announce', 'give-badges', 'post-notices'],
    },
    v: { rank: 10, role: 'borrower', permissions: ['borrow'] },
  },
});

try {
  await platform.serve(layer);
  console.log(`${nick} is in ${channel} at ${host}:${port}. Try: !shelf`);
  for (const signal of ['SIGINT', 'SIGTERM'] as const) {
    // Closes the connection last, once the running calls have had their say.
    process.once(signal, () => void layer.close({ within: '5s' }).then(() => process.exit(0)));
  }
} catch (error) {
  if (!(error instanceof PlatformError)) throw error;
  console.error(`irc-bot: ${error.message}`);
  process.exitCode = 2;
}

function wholePort(text: string): number {
  const value = Number(text);
  if (!Number.isInteger(value) || value < 1 || value > 65_535) {
    console.error(`irc-bot: "${text}" is no port; give a whole number from 1 to 65535.`);
    process.exit(2);
  }
  return value;
}
