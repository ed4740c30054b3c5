/** A bot's link to an IRC network: made, and made anew with growing pauses whenever it is lost. */
import { type Pace, PlatformError, steadyClock } from 'taxeon/platform';
import { wantedChannels } from './channels.js';
import type { IrcMessage } from './message.js';
import type { IrcSettings } from './options.js';
import type { Presence, Roster } from './roster.js';
import { openSession, type Session } from './session.js';
import type { IrcState } from './state.js';

export interface IrcLink {
  state(): IrcState;
  /** How many lines it costs to learn that a message has arrived. */
  receiptLines(): number;
  /**
   * Resolves once the bot is there for the first time.
   *
   * @throws PlatformError where it is never let in as it is configured, or was closed meanwhile
   */
  open(): Promise<void>;
  /** Resolves once the server has taken it. @throws PlatformError where it has not. */
  say(target: string, lines: readonly string[]): Promise<void>;
  /** Who has a nick now, as the server tells; `undefined` where nobody has, or it does not tell in time. */
  whoIs(nick: string): Promise<Presence | undefined>;
  close(): Promise<void>;
}

const CLOSE_MS = 2000;
/** A connection that is lost sooner is not taken for one that was good. */
const GOOD_AFTER_MS = 30_000;
/** What servers say to those who said too much at once. */
const flooding = /flood|recvq|sendq|too fast/i;
/** A server that does not read what came last resets the connection, and its word may be lost. */
const reset = /ECONNRESET|EPIPE/;
const LATELY_MS = 5000;
const SLOWEST_MS = 60_000;

export function createLink(
  settings: IrcSettings,
  roster: Roster,
  pace: Pace,
  heard: (message: IrcMessage) => void,
  changed: (state: IrcState) => void,
): IrcLink {
  const { server, pauses, clock, log } = settings;
  const { host } = server;
  const steady = steadyClock(clock);
  let session: Session | undefined;
  let saidAt = Number.NEGATIVE_INFINITY;
  let link: IrcState['link'] = 'idle';
  let since = clock.now();
  let why: string | undefined;
  let wake: (() => void) | undefined;
  let kept: Promise<void> | undefined;
  const closing = new AbortController();
  const isClosed = () => link === 'closed';
  const tell = () => changed(state());
  const channels = wantedChannels(settings.channels, pauses, roster.fold, log, tell);

  function state(): IrcState {
    const account = session?.account;
    return {
      link,
      since,
      ...(why === undefined ? {} : { why }),
      nick: session?.nick ?? server.nick,
      ...(account === undefined ? {} : { account }),
      channels: channels.states(),
    };
  }

  function become(next: IrcState['link'], because?: string): void {
    if (isClosed()) return;
    if (link !== next) since = clock.now();
    link = next;
    why = because;
    tell();
  }

  async function turn(): Promise<void> {
    // Each line has its own turn beside those of people.
    await pace.turn({ channel: '', person: '', call: {}, clock: steady });
  }

  /** Once from the first packet to the last. Resolves with the reason why it is over. */
  async function once(there: () => void): Promise<string> {
    try {
      const opened = await openSession(
        { server, roster, channels, log, turn, signal: closing.signal, heard, changed: tell },
        (begun) => {
          session = begun;
          become('connected');
        },
      );
      there();
      return await opened.ended;
    } finally {
      session?.quit();
      session = undefined;
    }
  }

  /** Until it is closed, or cannot be. */
  async function keep(there: () => void): Promise<void> {
    let pauseMs = pauses.firstMs;
    let wasThere = false;
    while (!isClosed()) {
      const began = steady.now();
      let error: unknown;
      try {
        why = await once(() => {
          if (wasThere) log.warn({ host }, 'The IRC connection is back');
          wasThere = true;
          there();
        });
      } catch (failure) {
        error = failure;
        if (!wasThere && failure instanceof PlatformError && failure.code === 'platform.forbidden') throw failure;
        why = failure instanceof Error ? failure.message : String(failure);
      }
      if (isClosed()) return;
      slowDown(why);
      if (steady.now() - began >= GOOD_AFTER_MS) pauseMs = pauses.firstMs;
      const fields = { host, why, nextMs: pauseMs, ...(error === undefined ? {} : { error }) };
      if (!wasThere) log.warn(fields, 'There is no IRC connection yet');
      else if (error === undefined) log.warn(fields, 'The IRC connection was lost; reconnecting');
      else log.warn(fields, 'The IRC connection is not back yet');
      become(wasThere ? 'lost' : 'connecting', why);
      await sleep(pauseMs);
      pauseMs = Math.min(pauseMs * 2, pauses.mostMs);
    }
  }

  /** What the server says when it puts the bot out is the only word on its limit that there is. */
  function slowDown(why: string): void {
    const isReset = reset.test(why) && steady.now() - saidAt < LATELY_MS;
    if (!(flooding.test(why) || isReset) || settings.pace.windowMs >= SLOWEST_MS) return;
    settings.pace.windowMs *= 2;
    log.warn(
      { host, why, lines: settings.pace.uses, windowMs: settings.pace.windowMs },
      'The bot says less at once on IRC',
    );
  }

  function sleep(ms: number): Promise<void> {
    return new Promise((resolve) => {
      const timer = setTimeout(resolve, ms);
      wake = () => {
        clearTimeout(timer);
        resolve();
      };
    });
  }

  return {
    state,
    open() {
      if (kept !== undefined) return Promise.reject(new PlatformError('platform.failed', 'IRC is served already'));
      become('connecting');
      return new Promise((resolve, reject) => {
        const gone = () => reject(new PlatformError('platform.gone', `IRC at ${host}: it was closed`));
        kept = keep(resolve).then(gone, (error) => {
          become('closed', error.message);
          reject(error);
        });
      });
    },
    say(target, lines) {
      if (session === undefined) {
        const code = isClosed() || kept === undefined ? 'platform.gone' : 'platform.unreachable';
        return Promise.reject(new PlatformError(code, `IRC at ${host}: ${why ?? 'there is no connection'}`));
      }
      saidAt = steady.now();
      return session.say(target, lines);
    },
    receiptLines: () => (session?.echoes === true ? 0 : 1),
    whoIs: (nick) => session?.whoIs(nick) ?? Promise.resolve(undefined),
    async close() {
      if (isClosed()) return;
      become('closed');
      wake?.();
      closing.abort();
      await Promise.race([kept, new Promise((resolve) => setTimeout(resolve, CLOSE_MS).unref())]);
    },
  };
}
