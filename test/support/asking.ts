/** Conversations with a bot that asks. */

import type { Exchange } from '@taxeon/testing';
import { arg, type CommandOrGroup, command, type LayerOptions, plainText } from 'taxeon';
import { askInChat } from 'taxeon/asking';
import { type Scene, sceneOf } from './oddmere.js';

/** Asks for whom and for how much. */
export const fine = command({
  name: 'fine',
  description: 'Charge a member',
  whenMissing: 'ask',
  args: { who: arg.member(), pence: arg.integer() },
  run: ({ args }) => `${args.who.name} pays ${args.pence}.`,
});

export const said = ({ posts }: Exchange) => posts.map(({ notice }) => plainText(notice)).join('\n');
export const statusOf = ({ outcome }: Exchange) => ('code' in outcome ? outcome.code : outcome.status);
/** Until all that was begun has gone as far as it goes without the clock. */
export const settled = () => new Promise((resolve) => setTimeout(resolve, 5));
export const scene = (commands: readonly CommandOrGroup[], options: Partial<LayerOptions> = {}) =>
  sceneOf(commands, { asking: askInChat(), ...options });
export const lastPost = ({ platform }: Scene) => plainText(platform.posts.at(-1)?.notice ?? { body: '' });

/** What a handler is called for, while it waits. */
export async function begun(scene: Scene, by: string, line: string): Promise<{ readonly ends: Promise<Exchange> }> {
  const ends = scene.types(by, line);
  await settled();
  return { ends };
}
