/** What an IRC platform is told: the server, who the bot is there, where it goes and how it speaks. */
import { type Allowance, type Clock, type Duration, type Log, systemClock } from 'taxeon';
import { allowanceOf, checkFields, type Fields, forms, millisecondsOf, safeLog } from 'taxeon/platform';
import type { RetryPauses, WantedChannel } from './channels.js';
import type { Identity, ModeMeaning } from './roster.js';

/** A NOTICE, which no bot may answer, or a message as people write them. */
export type AnswersBy = 'notice' | 'message';

/** How the bot proves to the network who it is. */
export type Login =
  /** SASL PLAIN. */
  | { readonly by: 'plain'; readonly account: string; readonly password: string }
  /** SASL EXTERNAL, by a certificate over TLS: both in PEM. */
  | { readonly by: 'certificate'; readonly key: string; readonly certificate: string }
  /** A message to the network's service, where it has no SASL; `'NickServ'` unless `service` says another. */
  | { readonly by: 'nickserv'; readonly password: string; readonly account?: string; readonly service?: string };

/** How the bot is on IRC. All of it is told in docs/irc.md. */
export interface IrcOptions {
  /** Which the keys of people and channels begin with; `'irc'` by default. Networks on one layer need different ones. */
  readonly name?: string;
  readonly host: string;
  /** 6667 by default, 6697 with TLS. */
  readonly port?: number;
  /** With `trustsAny`, a certificate that no known authority has signed will do: for networks in one's own house. */
  readonly tls?: boolean | { readonly trustsAny: boolean };
  readonly nick: string;
  /** The user part of user@host; the nick in small letters by default. */
  readonly username?: string;
  /** The server's password. Take it from the environment or a file, not from the command line. */
  readonly password?: string;
  /** The bot's account; take its password from the environment or a file, too. */
  readonly login?: Login;
  /** Where the bot is to be: names such as `#oddmere`, with their key where they have one. */
  readonly channels: readonly (string | WantedChannel)[];
  /** What proves who a person is; the services account by default. */
  readonly identity?: Identity;
  /** What channel modes stand for, by letter. By default they give ranks and no permissions. */
  readonly modes?: Readonly<Record<string, ModeMeaning>>;
  /** How it says what it says: by `'notice'`, so that no other bot answers it, or by `'message'`. */
  readonly answersBy?: AnswersBy;
  /** Whether refusals are said in the channel, where they were asked for; else to the caller alone. True by default. */
  readonly refusalsInPlace?: boolean;
  /** Whether headings are bold; they are by default. */
  readonly bold?: boolean;
  /** How many lines the server takes in how long; 5 at once and one every 2 s by default, as RFC 1459 says in 8.10. */
  readonly pace?: Allowance;
  /** What people read when the bot leaves: `Back in a minute`. */
  readonly lastWords?: string;
  /** Pauses before connecting or joining again; from 1 s to 5 min by default. */
  readonly pauses?: { readonly first: Duration; readonly most: Duration };
  /** After how long without a sign of the server the link is dead and made anew; 25 s by default, and at least 1 s. */
  readonly silence?: Duration;
  readonly clock?: Clock;
  readonly log?: Log;
}

/** The options that make a connection. */
export interface Server {
  readonly host: string;
  readonly port: number;
  readonly tls: NonNullable<IrcOptions['tls']>;
  readonly nick: string;
  readonly username: string;
  readonly password: string | undefined;
  readonly login: Login | undefined;
  readonly answersBy: AnswersBy;
  readonly lastWords: string | undefined;
  readonly silenceMs: number;
}

export interface IrcSettings {
  readonly name: string;
  readonly server: Server;
  readonly channels: readonly WantedChannel[];
  readonly identity: Identity;
  readonly modes: Readonly<Record<string, ModeMeaning>>;
  readonly refusalsInPlace: boolean;
  readonly bold: boolean;
  /** So many lines at once; the window grows when the server has closed the connection for it. */
  readonly pace: { readonly uses: number; windowMs: number };
  readonly pauses: RetryPauses;
  readonly clock: Clock;
  readonly log: Log;
}

/** The customary order: founder, protected, operator, half operator, voice. */
const customaryModes: Readonly<Record<string, ModeMeaning>> = {
  q: { rank: 50 },
  a: { rank: 40 },
  o: { rank: 30 },
  h: { rank: 20 },
  v: { rank: 10 },
};

/** What stands in a line of the protocol: without white space, which would end it. */
const isWord = (value: unknown): value is string => typeof value === 'string' && /^[^\s\0:][^\s\0]*$/.test(value);
const aWord = forms.of('a text without white space', isWord);
const isChannel = (value: unknown) => isWord(value) && /^[#&+!][^,]*$/.test(value) && value.length <= 200;
const isWanted = (value: unknown) => {
  if (typeof value === 'string') return isChannel(value);
  const { name, key, ...rest } = Object(value) as Readonly<Record<string, unknown>>;
  return (
    isChannel(name) && (key === undefined || (isWord(key) && !key.includes(','))) && Object.keys(rest).length === 0
  );
};
const isLogin = (value: unknown) => {
  const { by, account, password, key, certificate, service, ...rest } = Object(value) as Readonly<
    Record<string, unknown>
  >;
  const isText = (one: unknown) => typeof one === 'string' && one !== '';
  if (Object.keys(rest).length > 0) return false;
  if (by === 'plain') return isText(account) && isText(password);
  if (by === 'certificate') return isText(key) && isText(certificate);
  return (
    by === 'nickserv' &&
    isWord(password) &&
    (account === undefined || isWord(account)) &&
    (service === undefined || isWord(service))
  );
};
/** 0 where it is no duration. */
function msOf(duration: unknown): number {
  return forms.duration(duration) === undefined ? millisecondsOf(duration, '') : 0;
}

const fields: Fields<IrcOptions> = {
  name: forms.text,
  host: aWord,
  port: forms.of(
    'a whole number from 1 to 65535',
    (port) => Number.isInteger(port) && Number(port) > 0 && Number(port) < 65_536,
  ),
  tls: forms.of('true, false, or { trustsAny: true }', (tls) =>
    typeof tls === 'object' ? typeof Object(tls).trustsAny === 'boolean' : typeof tls === 'boolean',
  ),
  nick: aWord,
  username: aWord,
  password: forms.of('a text without line breaks', (value) => typeof value === 'string' && /^[^\r\n\0]+$/.test(value)),
  login: forms.of('how the bot logs in, by plain, certificate or nickserv, with all of its fields', isLogin),
  channels: forms.of(
    'a list of names such as #oddmere, or { name, key }',
    (all) => Array.isArray(all) && all.every(isWanted),
  ),
  identity: forms.of('account or user@host', (value) => value === 'account' || value === 'user@host'),
  modes: forms.object,
  answersBy: forms.of('notice or message', (value) => value === 'notice' || value === 'message'),
  refusalsInPlace: forms.flag,
  bold: forms.flag,
  pace: forms.allowance,
  lastWords: forms.of('a text in one line', (value) => typeof value === 'string' && /^[^\r\n\0]+$/.test(value)),
  pauses: forms.of(
    "{ first, most }, such as '1s' and '5m'",
    (all) => msOf(Object(all).first) > 0 && msOf(Object(all).most) > 0,
  ),
  silence: forms.of("a duration, at least '1s'", (value) => msOf(value) >= 1000),
  clock: forms.clock,
  log: forms.anything,
};

/** @throws TypeError with everything that is wrong with them. Passwords are not shown. */
export function ircSettings(options: IrcOptions): IrcSettings {
  const problems: string[] = [];
  checkFields(options, fields, (field, problem) => {
    const isSecret = field === 'password' || field === 'login';
    problems.push(`\`${field}\` ${isSecret ? problem.replace(/^is .*; give/s, 'is not right; give') : problem}`);
  });
  for (const needed of ['host', 'nick', 'channels'] as const)
    if (Object(options)[needed] === undefined) problems.push(`\`${needed}\` is missing`);
  if (problems.length > 0) throw new TypeError(`irc: ${problems.join('\n     ')}`);
  const { host, nick, channels, tls = false, login, password, name = 'irc', bold = true } = options;
  if (login?.by === 'certificate' && tls === false)
    throw new TypeError('irc: a certificate needs TLS; give `tls: true`');
  const { pauses = { first: '1s', most: '5m' } } = options;
  return {
    name,
    server: {
      host,
      port: options.port ?? (tls === false ? 6667 : 6697),
      tls,
      nick,
      username: options.username ?? nick.toLowerCase(),
      password,
      login,
      answersBy: options.answersBy ?? 'notice',
      lastWords: options.lastWords,
      silenceMs: msOf(options.silence ?? '25s'),
    },
    channels: channels.map((one) => (typeof one === 'string' ? { name: one } : one)),
    identity: options.identity ?? 'account',
    modes: options.modes ?? customaryModes,
    refusalsInPlace: options.refusalsInPlace ?? true,
    bold,
    pace: allowanceOf(options.pace ?? '5 in 10s', 'irc, pace'),
    pauses: { firstMs: msOf(pauses.first), mostMs: msOf(pauses.most) },
    clock: options.clock ?? systemClock,
    log: safeLog(options.log),
  };
}
