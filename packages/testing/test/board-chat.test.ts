/** An adapter for a chat of another shape than that of docs/platforms.md: events by HTTP, ids without names, slash commands by ticket. */

import { platformTrials } from '@taxeon/testing/trials';
import { arg, command, createCommandLayer } from 'taxeon';
import { askInChat } from 'taxeon/asking';
import { afterEach, describe, expect, test } from 'vitest';
import { silentLog } from '../../../test/support/oddmere.js';
import { until } from '../../../test/support/programs.js';
import { boardChat, nativeOf } from './support/board-chat/adapter.js';
import { startBoard } from './support/board-chat/server.js';

const leaving: (() => Promise<unknown>)[] = [];
afterEach(async () => {
  for (const leave of leaving.splice(0).reverse()) await leave();
});

async function board() {
  const server = await startBoard('Mallet');
  leaving.push(() => server.close());
  const wren = server.person('Wren');
  const ines = server.person('Ines', true);
  const read = new Set<string>();
  const lines: Record<'room' | 'alone', string[]> = { room: [], alone: [] };
  /** The next line of the bot's, of notes in the room or of those for Wren alone. */
  const next = (where: 'room' | 'alone') => async () => {
    await until(
      () => {
        for (const { id, by, only, text } of server.notes) {
          const isSeen = where === 'room' ? only === undefined : only === wren.id;
          if (by !== 'p1' || !isSeen || read.has(id)) continue;
          read.add(id);
          lines[where].push(...text.split('\n'));
        }
        return lines[where].length > 0;
      },
      'the bot says something',
      3000,
    );
    return lines[where].shift() ?? '';
  };
  return { server, wren, ines, heard: next('room'), heardAlone: next('alone'), platform: boardChat(server.url) };
}

describe('the adapter to the notice board', () => {
  test.each(platformTrials.map((trial) => [trial.name, trial] as const))('%s', async (_, trial) => {
    const { server, wren, ines, heard, heardAlone, platform } = await board();
    const skipped = await trial.run({
      platform,
      somebody: { name: 'Wren' },
      type: (line) => server.write(wren, line, 'counter'),
      heard,
      other: { name: 'Ines', type: (line) => server.write(ines, line, 'counter') },
      whisper: (line) => server.write(wren, line),
      heardAlone,
      invoke: (path, options) => server.invoke(wren, path, options),
      addressing: '[p:p1] ',
      redeliver: () => server.again(),
      shown: async () =>
        server.notes.filter(({ by, only }) => by === 'p1' && only === undefined).map(({ text }) => text),
      stands: async (line) => server.notes.some(({ by, text }) => by === wren.id && text === line),
    });
    expect(skipped ?? 'held').toMatch(/^held$|^it (?:takes|shows|claims|expires)/);
  });

  test('has its own event at hand in a handler, also behind an answer', async () => {
    const { server, wren, platform } = await board();
    const seen: unknown[] = [];
    const look = command({
      name: 'look',
      description: 'Look at the event',
      args: { what: arg.text() },
      whenMissing: 'ask',
      run(call) {
        seen.push(nativeOf({ ...call })?.text);
        return 'seen';
      },
    });
    const layer = createCommandLayer({ commands: [look], prefixes: ['!'], log: silentLog, asking: askInChat() });
    await platform.serve(layer);
    leaving.push(() => layer.close());
    await server.write(wren, '!look here', 'counter');
    await until(() => seen.length === 1, 'it ran');
    await server.write(wren, '!look', 'counter');
    await until(() => server.notes.some(({ text }) => text.includes('I still need')), 'it asks');
    await server.write(wren, 'there', 'counter');
    await until(() => seen.length === 2, 'it ran behind the answer');
    expect(seen).toEqual(['!look here', 'there']);
  });
});
