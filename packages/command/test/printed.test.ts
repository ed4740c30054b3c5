/** Whatever people, places, files and the bot's own words are called: nothing that is printed moves a cursor or hides a line. */
import { readdirSync } from 'node:fs';
import { fileStore } from '@taxeon/file-store';
import { expect, test } from 'vitest';
import { folderOf } from './support.js';

/** Colours, a window's title, a line that is cleared, a control of one byte, a text that is turned around. */
const bad = 'Wren\x1b[31m\x1b]0;x\x07\x1b[2K\r\x9b2J\x7f\u202e\u2066';
const config = `
import { arg, command, createCommandLayer } from 'taxeon';
import { standIn, standInRegistrar } from '@taxeon/testing';
const bad = ${JSON.stringify(bad)};
const open = ({ clock, log }) => {
  const platform = standIn({
    bot: { id: 'mallet', name: bad },
    permissions: ['borrow'],
    people: [{ id: 'wren', name: bad }, { id: 'ines', name: 'Ines' }],
    guilds: [{ id: 'oddmere', name: bad, owner: 'ines', channels: ['counter'], roles: [{ name: bad, rank: 1 }], members: { wren: [bad], ines: [] } }],
  }, { clock });
  log.warn({ what: bad }, bad);
  const lamp = command({
    name: 'lamp', description: 'Light it ' + bad, section: 'Light ' + bad,
    args: { who: arg.member({ description: bad, optional: true }), note: arg.tail({ optional: true }) },
    requires: ({ caller, condition }) => [caller.can(bad), condition(bad, () => bad)],
    run: ({ args }) => bad + (args.note ?? ''),
  });
  const bell = command({ name: 'bell', description: bad, run: () => ({ tone: 'info', heading: bad, body: bad, details: [bad] }) });
  const fall = command({ name: 'fall', description: bad, run: () => { throw new Error(bad); } });
  const layer = createCommandLayer({ commands: [lamp, bell, fall], prefixes: ['!'], clock, log, roles: { [bad]: ['x'] } });
  return { layer, platform };
};
export default { open };
`;
const tryout = `
tryout: ${JSON.stringify(bad)}
begins: 2026-05-09T13:00:00Z
lines:
  - scene: ${JSON.stringify(bad)}
  - { person: wren, place: oddmere, types: ${JSON.stringify(`!bell ${bad}`)}, expect: { status: failed, says: ${JSON.stringify(bad)} } }
  - { person: wren, place: oddmere, types: '!bell', expect: { status: completed } }
  - { person: ines, place: oddmere, types: '!fall', expect: { status: failed } }
  - { person: ines, place: oddmere, types: '!lamp', expect: { status: completed } }
`;

test('by any command', { timeout: 120_000 }, async () => {
  const name = 'a\x1b[2K\x07.tryout.yaml';
  const { path, taxeon, types } = folderOf({
    'taxeon.config.mjs': config,
    [name]: tryout,
    'wrong\x1b[2K.tryout.yaml': `tryout: ${JSON.stringify(bad)}\nlines: [{ ${JSON.stringify(bad)}: 1 }]\n`,
    'wrong.config.mjs': `throw new Error(${JSON.stringify(bad)});`,
    'other.config.mjs': `export default { ${JSON.stringify(bad)}: 1 };`,
  });
  const store = fileStore({ path: `${path}/bad.db` });
  await store.acquire([{ id: `irc/${bad}/user`, uses: 1, windowMs: 600_000 }], [bad]);
  await store.increment(`usage/2026-05-09/irc/${encodeURIComponent(bad)}/${encodeURIComponent(bad)}/completed`, 1);
  await store.close();
  const lines: (readonly string[])[] = [
    ...[[], ['--json']].flatMap((json) => [
      ['check', ...json],
      ['access', ...json],
      ['access', '--bot', ...json],
      ['try', name, '--uncovered', ...json],
      ['try', 'wrong\x1b[2K.tryout.yaml', ...json],
      ['explain', `!bell ${bad}`, '--as', 'wren', ...json],
      ['explain', '!lamp w', '--as', 'ines', '--complete', ...json],
      ['usage', '--store', 'bad.db', ...json],
      ['limits', '--store', 'bad.db', ...json],
    ]),
    ['try', name, '--format', 'junit'],
    ...['csv', 'html'].map((format) => ['access', '--format', format]),
    ['usage', '--store', 'bad.db', '--format', 'csv'],
    ['reference'],
    ['reference', '--format', 'html'],
    ['new', bad, '--platform', 'stand-in', '--language', 'js'],
    ['limits', '--store', bad],
    ['check', '--config', 'wrong.config.mjs'],
    ['check', '--config', 'other.config.mjs'],
    ['explain', '!bell', '--as', bad],
    [bad],
    [`--${bad}`],
  ];
  const printed = [
    ...(await Promise.all(lines.map(async (line) => ({ line, ...(await taxeon(...line)) })))),
    { line: 'reset', ...(await taxeon('limits', '--store', 'bad.db', '--of', bad, '--reset', `irc/${bad}/user`)) },
    { line: 'console', ...(await types(`!bell\n!fall\n!lamp ${bad}\n--as ${bad}\n--as ines\n!lamp\n`, 'console')) },
  ];
  const wrong = printed.flatMap(({ line, out, err }) => {
    const found = /[^\P{Cc}\n\t]|[\u2028-\u202e\u2066-\u2069]/u.exec(out + err);
    return found === null
      ? []
      : [{ line, at: JSON.stringify((out + err).slice(Math.max(0, found.index - 40), found.index + 10)) }];
  });
  expect(wrong).toEqual([]);
  // Each has said something, or there would be nothing to see.
  for (const { line, out, err } of printed) expect([line, (out + err).length > 10]).toEqual([line, true]);
  expect(printed.filter(({ out }) => out.includes('Wren')).length).toBeGreaterThan(12);
  expect(readdirSync(path).length).toBeGreaterThan(4);
});
