/** What is kept of people and guilds, who changed it, and how it is forgotten. */
import { command, createCommandLayer, guildSettings, type LayerEvents, memoryStore, settingsCommands } from 'taxeon';
import { forgetPerson } from 'taxeon/queries';
import { describe, expect, test } from 'vitest';
import { codeOf, liveIn, oddmere, silentLog } from '../../../test/support/oddmere.js';

const described = { description: 'Something' };

async function scene() {
  const store = memoryStore();
  const rule = { command: 'lamp', verdict: 'grant' } as const;
  const settings = guildSettings({
    store,
    log: silentLog,
    guilds: {
      'stand-in/pellbrook': {
        rules: [
          { ...rule, member: 'wren' },
          { ...rule, member: 'ines' },
        ],
      },
    },
  });
  const managing = settingsCommands(settings, { requires: ({ caller }) => [caller.can('manage')] });
  const lamp = command({
    ...described,
    name: 'lamp',
    cooldowns: {
      user: '1 in 1h',
      userHere: '1 in 2h',
      everyone: '9 in 1h',
      own: { allow: '3 in 1h', key: () => 'shelf' },
    },
    run: () => 'The lamp is lit.',
  });
  const events: LayerEvents['settingsChanged'][] = [];
  const opened = await oddmere(({ clock }) => {
    const layer = createCommandLayer({
      commands: [lamp, ...managing],
      prefixes: ['!'],
      clock,
      store,
      settings,
      log: silentLog,
      owners: ['stand-in/odalys'],
      roles: { steward: ['manage'] },
    });
    layer.on('settingsChanged', (event) => events.push(event));
    return layer;
  });
  return { ...opened, store, settings, events };
}

describe('forgetting a person', () => {
  test('removes their uses and the rules about them, and nothing of others', async () => {
    const { types, layer, store, settings } = await scene();
    for (const by of ['wren', 'ines']) await types(by, '!lamp');
    await types('ines', '!deny lamp wren');
    expect(codeOf((await types('wren', '!lamp')).outcome)).toBe('permission.caller');
    expect(await forgetPerson(layer, 'stand-in/wren')).toEqual({ limits: 2, rules: 2, questions: 0 });
    expect(codeOf((await types('wren', '!lamp')).outcome)).toBe('completed');
    expect(codeOf((await types('ines', '!lamp')).outcome)).toBe('cooldown.active');
    expect((await settings.load('stand-in/pellbrook')).rules).toEqual([
      { command: 'lamp', verdict: 'grant', member: 'ines' },
    ]);
    expect(await forgetPerson(layer, 'other/ines')).toEqual({ limits: 0, rules: 0, questions: 0 });
    const kept = JSON.stringify([await liveIn(store), await store.entries('')]);
    await forgetPerson(layer, 'stand-in/wren');
    await forgetPerson(layer, 'stand-in/ines');
    expect(kept).toContain('wren');
    expect(JSON.stringify([await liveIn(store), await store.entries('')])).not.toMatch(/wren|ines/);
  });

  test('takes a key, and works on a layer without settings', async () => {
    const layer = createCommandLayer({ commands: [command({ ...described, name: 'lamp', run: () => '' })] });
    await expect(forgetPerson(layer, 'wren' as never)).rejects.toThrow('"wren" is no key');
    expect(await forgetPerson(layer, 'irc/wren')).toEqual({ limits: 0, rules: 0, questions: 0 });
  });
});

describe('a change of a guild’s settings is an event', () => {
  test('from the chat, with who did it, where and what', async () => {
    const { types, events } = await scene();
    await types('ines', '!prefix ? %');
    expect(events).toMatchObject([
      {
        platform: 'stand-in',
        guild: 'oddmere',
        by: { kind: 'member', id: 'ines' },
        changed: ['prefixes'],
        before: {},
        after: { prefixes: ['?', '%'] },
      },
    ]);
  });

  test('from the bot’s own code, and none where nothing was written', async () => {
    const { settings, events } = await scene();
    await settings.change('stand-in/pellbrook', (now) => ({ ...now, off: ['lamp'], timeZone: 'Europe/London' }));
    expect(events).toMatchObject([{ guild: 'pellbrook', by: undefined, changed: ['off', 'timeZone'] }]);
    await settings.change('stand-in/pellbrook', (now) => ({ ...now }));
    await expect(settings.change('stand-in/pellbrook', () => ({ timeZone: 'Moon' }))).rejects.toThrow('time zone');
    expect(events).toHaveLength(1);
  });
});
