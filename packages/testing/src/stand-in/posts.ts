/** What was said on a simulated platform, and what became of it. */

import { type Clock, type Notice, type Place, plainText } from 'taxeon';
import { type Delivered, PlatformError, plainMarkup, type Reply, withoutPings } from 'taxeon/platform';
/** Something the bot said. */
export interface Post {
  readonly id: string;
  readonly notice: Notice;
  readonly place: Place;
  /** `'everyone'` in the place, or the id of the one person who sees it. */
  readonly visibleTo: string;
  readonly at: number;
  /** Ids of those who were pinged. */
  readonly pings: readonly string[];
  /** When the invocation that it answers was held; `undefined` where it was not. */
  readonly heldAt: number | undefined;
  /** What it said before, oldest first. */
  readonly earlier: readonly Notice[];
  /** When it went or goes away again. */
  readonly goneAt: number | undefined;
}

export interface Posts {
  readonly all: readonly Post[];
  add(reply: Reply, place: Place, visibleTo: string, heldAt?: number): Delivered;
  /** @throws PlatformError where it is gone. */
  edit(delivered: Delivered, reply: Reply): void;
  remove(delivered: Delivered): void;
}

export function createPosts(clock: Clock): Posts {
  const all: Post[] = [];

  function indexOf({ id }: Delivered): number {
    const index = all.findIndex((post) => post.id === id);
    const goneAt = all[index]?.goneAt;
    if (index < 0 || (goneAt !== undefined && goneAt <= clock.now())) {
      throw new PlatformError('platform.gone', 'The message is not there any more');
    }
    return index;
  }

  function goneAtOf({ expiresInMs }: Reply): number | undefined {
    return expiresInMs === undefined ? undefined : clock.now() + expiresInMs;
  }

  return {
    all,
    add(reply, place, visibleTo, heldAt) {
      const { notice, mentions = [] } = reply;
      const id = `post-${all.length + 1}`;
      const pings = mentions.filter((mentioned) => shownText(notice).includes(`@${mentioned}`));
      const said = { id, notice, place, visibleTo, at: clock.now(), pings };
      all.push({ ...said, heldAt, earlier: [], goneAt: goneAtOf(reply) });
      return { id };
    },
    edit(delivered, reply) {
      const index = indexOf(delivered);
      const post = all[index] as Post;
      all[index] = {
        ...post,
        notice: reply.notice,
        earlier: [...post.earlier, post.notice],
        goneAt: goneAtOf(reply) ?? post.goneAt,
      };
    },
    remove(delivered) {
      const index = indexOf(delivered);
      all[index] = { ...(all[index] as Post), goneAt: clock.now() };
    },
  };
}

/** The platform's own signs: `@person`, `&role`, `#channel`, and `@all` for everybody. */
const pings = /[@&#][\p{L}\p{N}_-]+/gu;

/**
 * How the platform shows a notice: a mention that pings nobody is broken with a character that nobody sees.
 *
 * @example
 * standInText({ body: 'Hello @wren' }, ['wren']);
 */
export function standInText(notice: Notice, mentions: readonly string[] = []): string {
  return withoutPings(shownText(notice), pings, (ping) => ping[0] === '#' || mentions.includes(ping.slice(1)));
}

function shownText(notice: Notice): string {
  return plainMarkup(plainText(notice));
}
