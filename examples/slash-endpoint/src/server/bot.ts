/** Mallet behind an address: what a post says, and how it is answered. */
import { type DemoData, mallet } from '@oddmere/tool-library';
import { type SlashAnswer, type SlashEndpoint, signatures, slashEndpoint, type VerifyingKey } from '@taxeon/http';
import { standIn } from '@taxeon/testing';
import type { CommandLayer, Log } from 'taxeon';

export interface Bot {
  readonly layer: CommandLayer;
  readonly endpoint: SlashEndpoint;
}

/** What the bot says without being answered for: to a person alone, or in a channel. */
export interface Elsewhere {
  tell(person: string, answer: SlashAnswer): void;
  post(channel: string, answer: SlashAnswer): void;
}

/**
 * @param keyOf finds the key that a post is signed with
 * @param origin of the chat, which takes late answers, and of the bot: here it is one server
 */
export function openBot(
  data: DemoData,
  keyOf: (id: string) => VerifyingKey | undefined,
  origin: string,
  elsewhere: Elsewhere,
  log: Log,
): Bot {
  const scanners = { oddmere: { ...data.scanners?.['oddmere'], toolMs: 400 } };
  const layer = mallet({ ...data, scanners }, { log });
  const { directory } = standIn(data.world);
  const endpoint = slashEndpoint(layer, {
    // The demo's commands and settings are for guilds of this name.
    name: 'stand-in',
    proof: signatures({ keys: keyOf }),
    origin,
    read: ({ get }) => ({
      id: get('event'),
      caller: {
        id: get('person', 'id'),
        name: get('person', 'name'),
        permissions: get('person', 'permissions'),
        roles: get('person', 'roles'),
        rank: get('person', 'rank'),
        ownsGuild: get('person', 'ownsGuild'),
      },
      place: { guild: { id: get('guild', 'id'), name: get('guild', 'name') }, channel: { id: get('channel') } },
      command: get('command'),
      options: get('options'),
      text: get('text'),
      answerTo: get('answerTo'),
    }),
    deadline: '1s',
    answers: { origins: [origin], local: true },
    tell: ({ id }, answer) => elsewhere.tell(id, answer),
    post: ({ id }, answer) => elsewhere.post(id, answer),
    bot: data.world.bot,
    directory,
  });
  return { layer, endpoint };
}
