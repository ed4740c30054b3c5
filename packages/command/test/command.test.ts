import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath, pathToFileURL } from 'node:url';
import { fileStore } from '@taxeon/file-store';
import { afterAll, describe, expect, test } from 'vitest';
import { start } from '../../../test/support/programs.js';

const bin = fileURLToPath(new URL('../bin/taxeon.js', import.meta.url));
const folders = fileURLToPath(new URL('../../', import.meta.url));
const toolLibrary = fileURLToPath(new URL('../../../examples/tool-library/', import.meta.url));
const folder = mkdtempSync(join(tmpdir(), 'oddmere-cli-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
writeFileSync(
  join(folder, 'taxeon.config.mjs'),
  `export { default } from ${JSON.stringify(new URL('../dist/demo/taxeon.config.js', import.meta.url).href)};`,
);

const taxeon = (args: readonly string[], cwd = folder) =>
  start(process.execPath, [bin, ...args], { cwd, env: { ...process.env, NO_COLOR: '1', FORCE_COLOR: undefined } })
    .finished;

describe('taxeon demo', () => {
  test('plays the afternoon and ends with a count of outcomes', async () => {
    const { status, out, err } = await taxeon(['demo']);
    expect({ status, err }).toEqual({ status: 0, err: '' });
    expect(out).toContain('Tobias   !borrow drill 2 days for the fence');
    expect(out).toContain('Mallet   The drill is yours, Tobias.');
    expect(out).toContain('(for Wren alone)');
    expect(out).toContain('Lending\n                    !borrow: Borrow a tool\n');
    expect(out).toContain('29 %  Counted shelf 2: jigsaw');
    expect(out).toMatch(
      /\(for-stewards\/overdue\.js is saved with a quote missing\)\n.*!modules reload\n.*✗ {2}Mallet {3}Nothing was reloaded\./,
    );
    expect(out).toMatch(/1d later\n.*✓ {2}Mallet {3}Late\n +ladder: with wren.*\(in Oddmere Tool Library #counter\)/);
    expect(readdirSync(tmpdir()).filter((name) => name.startsWith('oddmere-commands-'))).toEqual([]);
    expect(out).toMatch(
      /95 inputs: 2 ignored, 34 completed, 41 refused, 10 invalid, 7 waiting, 1 failed\.\n {2}Each came out as the script expects\./,
    );
  });

  test('plays it again on the same store, and says what it does with what is there', async () => {
    const path = join(folder, 'again.db');
    const once = await taxeon(['demo', '--store', path]);
    expect(once.out).not.toContain('knows this afternoon already');
    const again = await taxeon(['demo', '--store', path]);
    expect({ status: again.status, err: again.err }).toEqual({ status: 0, err: '' });
    expect(again.out).toContain(
      `${path} knows this afternoon already: its cooldowns and its guilds’ settings begin anew`,
    );
    expect((await taxeon(['usage', '--store', path])).out).toMatch(/ borrow +42 +6 +26 +10 /);
  });
});

test('--version tells the package’s version', async () => {
  const { version } = JSON.parse(readFileSync(new URL('../package.json', import.meta.url), 'utf8'));
  expect(await taxeon(['--version'])).toEqual({ status: 0, out: `${version}\n`, err: '' });
});

test('help is whole sentences of our own, for every command there is', async () => {
  const helps = [await taxeon(['--help'])];
  const names = [...(helps[0]?.out ?? '').matchAll(/^ {2}([a-z]+)/gm)].map(([, name]) => name ?? '');
  expect([names[0], names.length]).toEqual(['new', 12]);
  for (const name of names) helps.push(await taxeon([name, '--help']));
  for (const { status, out, err } of helps) {
    expect([status, err]).toEqual([0, '']);
    expect(out).not.toMatch(/default:|choices:|display help|\[options\]|^(Usage|Options|Commands|Arguments):/m);
    // Each thing with what it does: a sentence that begins with a verb, and its end.
    const items = out.split(/\n(?= {2}\S)/).slice(1);
    for (const item of items) expect(item).toMatch(/^ {2}\S.*? {2,}[A-Z][a-z]+\b[\s\S]*?[.?]["\s]*(\n\n|\n?$)/);
  }
});

describe('whoever reads only the beginning ends a command quietly:', () => {
  const store = join(folder, 'beginning.db');
  const commands = [
    'demo',
    'explain !shelf --as ines',
    'explain !over --as ines --complete',
    'access',
    'access --format html',
    'register --manifest',
    `usage --store ${store}`,
    `limits --store ${store}`,
    '--help',
  ];
  test.each(commands)('%s', async (args) => {
    const filled = fileStore({ path: store });
    await filled.increment('usage/2026-05-09/stand-in/oddmere/borrow/completed', 1);
    await filled.close();
    const words = args.split(' ').map((word) => `'${word}'`);
    const line = `'${process.execPath}' '${bin}' ${words.join(' ')} | true`;
    const { status, err } = await start('bash', ['-o', 'pipefail', '-c', line], { cwd: folder }).finished;
    expect({ status, err }).toEqual({ status: 0, err: '' });
  });
});

describe('taxeon explain', () => {
  test('prints the stages, the line with what took each token, and what the caller would read', async () => {
    const { status, out } = await taxeon(['explain', '!certify odalys lathe 90d', '--as', 'Ines', '--in', 'oddmere']);
    expect(status).toBe(0);
    expect(out).toContain('  !certify odalys lathe 90d\n   ─────── ────── ───── ───\n   induct  who    skill valid\n');
    expect(out).toMatch(
      /✗ {2}7 {2}standing {2}stopped {2}permission\.rank: You can do that only to people who rank below you/,
    );
    expect(out).toContain('refused at standing, permission.rank. Ines would read:');
  });

  test('--json prints one object', async () => {
    const { out } = await taxeon(['explain', '!charge', '--as', 'ines', '--json']);
    expect(JSON.parse(out)).toMatchObject({
      status: 'refused',
      command: null,
      args: null,
      stoppedAt: 'resolve',
      code: 'command.unknown',
      message: null,
    });
    const runs = await taxeon([
      'explain',
      '/fine who=wren pence=50 tool="hedge trimmer"',
      '--as',
      'ines',
      '--surface',
      'slash',
      '--json',
    ]);
    const { stages, ...rest } = JSON.parse(runs.out);
    expect(rest).toEqual({
      about: {
        guild: { id: 'oddmere', name: 'Oddmere Tool Library' },
        channel: { id: 'oddmere/counter', name: '#counter' },
        person: { id: 'ines', name: 'Ines' },
      },
      status: 'runs',
      command: 'fine',
      args: { who: { id: 'wren', name: 'Wren' }, pence: 50, tool: { name: 'hedge trimmer', kind: 'garden' } },
      stoppedAt: null,
      code: null,
      message: null,
      meant: null,
    });
    expect(stages).toHaveLength(11);
    expect(stages[0]).toEqual({ name: 'intake', verdict: 'passed', reason: 'from Ines' });
  });

  test('--complete shows what could stand where the line ends', async () => {
    const asked = ['--as', 'ines', '--in', 'oddmere', '--complete'];
    const { status, out } = await taxeon(['explain', '!overdue remind t', ...asked]);
    expect({ status, out }).toEqual({
      status: 0,
      out: '\n  !overdue remind t▏\n                  ─\n  Tobias  value\n\n',
    });
    expect(JSON.parse((await taxeon(['explain', '!over', ...asked, '--json'])).out).suggestions).toEqual([
      {
        kind: 'group',
        text: 'overdue',
        label: 'overdue',
        description: 'Tools that should be back by now',
        start: 1,
        end: 5,
      },
    ]);
    expect((await taxeon(['explain', '!fine ', '--as', 'pim', '--complete'])).out).toContain(
      'Nothing that could stand here.',
    );
    const slash = await taxeon(['explain', 'overdue remind who=t', '--surface', 'slash', ...asked]);
    expect(slash.out).toContain('Tobias');
  });

  test('explains lines at the console and in direct messages', async () => {
    expect((await taxeon(['explain', 'shelf', '--surface', 'console'])).out).toContain(
      'runs: shelf would be run for console.',
    );
    expect((await taxeon(['explain', '!borrow x', '--as', 'pim', '--in', 'direct'])).out).toContain(
      'refused at reach, place.wrong',
    );
  });

  test('reads a TypeScript configuration, as it stands now', async () => {
    const { out, err } = await taxeon(['explain', '?shelf', '--as', 'wren', '--in', 'pellbrook'], toolLibrary);
    expect(err).toBe('');
    expect(out).toContain('runs: shelf would be run for Wren.');
    expect(
      (await taxeon(['explain', '!shelf', '--as', 'wren', '--config', join(toolLibrary, 'taxeon.config.ts')])).out,
    ).toContain('runs');
  });
});

describe('taxeon access', () => {
  test('fits 100 columns and tells each reason once', async () => {
    const { status, out } = await taxeon(['access', '--in', 'oddmere', '--as', 'wren']);
    expect(status).toBe(0);
    expect(Math.max(...out.split('\n').map((line) => line.length))).toBeLessThanOrEqual(100);
    expect(out).toMatch(/induct +✗ +✗ +✗ +~ depends +✗ +✗/);
    expect(out).toMatch(/fine +everyone, keeper, helper, borrower, Wren: needs the permission fine/);
  });

  test('as JSON, CSV and one page that needs nothing else', async () => {
    const json = JSON.parse((await taxeon(['access', '--in', 'pellbrook', '--json'])).out);
    expect(json.rows.find((row: { command: string }) => row.command === 'induct').cells[1]).toEqual({
      verdict: 'refused',
      because: 'the bot needs the permission give-badges',
    });
    const csv = (await taxeon(['access', '--format', 'csv'])).out;
    expect(csv).toContain('\nborrow,everyone,refused,needs the permission borrow\nborrow,keeper,');
    const { out } = await taxeon(['access', '--format', 'html']);
    expect(out).toMatch(/^<!doctype html>[\s\S]*<th scope="row">borrow<\/th>/);
    expect(out).not.toMatch(/<script|https?:|src=/);
  });

  test('--bot tells what the bot itself must be allowed', async () => {
    expect((await taxeon(['access', '--bot'])).out).toMatch(/give-badges +induct\n +post-notices +announce/);
  });
});

describe('taxeon usage', () => {
  const path = join(folder, 'usage.db');

  test('shows what the demo has counted, as a table, CSV or JSON', async () => {
    expect((await taxeon(['demo', '--store', path])).status).toBe(0);
    const table = (await taxeon(['usage', '--store', path])).out;
    expect(table).toMatch(
      / {2}oddmere\n +command +in all +done +refused +invalid +asked +failed\n +borrow +21 +3 +13 +5 +· +· +■+▒+\n/,
    );
    expect(table).toMatch(/\(unknown name\) +2 +· +2 +· +· +· +▒/);
    // The columns of all guilds stand one under the other.
    const heads = table.split('\n').filter((line) => line.includes('in all'));
    expect([heads.length, new Set(heads).size]).toEqual([4, 1]);
    expect(table).toMatch(/stocktake +1 +· +· +· +· +1 +×/);
    const csv = (await taxeon(['usage', '--store', path, '--format', 'csv', '--in', 'pellbrook'])).out;
    expect(csv.split('\n').slice(0, 2)).toEqual([
      'day,platform,guild,command,status,count',
      '2026-05-09,stand-in,pellbrook,fine,completed,1',
    ]);
    const json = JSON.parse((await taxeon(['usage', '--store', path, '--json'])).out);
    expect(json.usage).toContainEqual({
      day: '2026-05-09',
      platform: 'stand-in',
      guild: 'pellbrook',
      command: 'stocktake',
      status: 'failed',
      count: 1,
    });
    expect((await taxeon(['usage', '--store', path, '--since', '2026-05-11'])).out).toContain('Nothing was counted.');
  });

  const wrong: [string, string[], RegExp][] = [
    ['a store that is not there', ['--store', 'gone.db'], /^taxeon: There is no store at gone\.db; name the file/],
    ['a day that is none', ['--store', path, '--since', 'May'], /^taxeon: "May" is no day; /],
  ];
  test.each(wrong)('%s is told in a sentence', async (_, args, message) => {
    const { status, err } = await taxeon(['usage', ...args]);
    expect({ status, told: message.test(err) }).toEqual({ status: 2, told: true });
  });
});

describe('taxeon register', () => {
  const registry = join(folder, 'registry.json');
  const env = { ODDMERE_TOKEN: 'demo', ODDMERE_REGISTRY: registry };
  const run = (args: readonly string[], more: Readonly<Record<string, string>> = env) =>
    start(process.execPath, [bin, 'register', ...args], {
      cwd: folder,
      env: { ...process.env, NO_COLOR: '1', FORCE_COLOR: undefined, ODDMERE_TOKEN: undefined, ...more },
    }).finished;

  /** A bot of one command, which changes from test to test. */
  function config(description: string, answer = 'ran'): string {
    const path = join(folder, 'registering.config.ts');
    writeFileSync(
      path,
      `import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { command, createCommandLayer } from '${pathToFileURL(join(folders, 'taxeon/dist/index.js')).href}';
import { standIn, emptyRegistrar, standInRegistrar } from '${pathToFileURL(join(folders, 'testing/dist/index.js')).href}';
const file: string = ${JSON.stringify(join(folder, 'own-registry.json'))};
const state = { read: () => (existsSync(file) ? JSON.parse(readFileSync(file, 'utf8')) : emptyRegistrar), write: (next: unknown) => writeFileSync(file, JSON.stringify(next)) };
const lend = command({ name: 'lend', description: ${JSON.stringify(description)}, run: () => ${JSON.stringify(answer)} });
const world = { bot: { id: 'mallet', name: 'Mallet' }, people: [], guilds: [] };
export default {
  registration: { credential: 'OWN_TOKEN', open: ({ credential }: { credential: string }) => standInRegistrar({ guilds: [], tokens: { own: ['look', 'register'] }, token: credential, state }) },
  open: () => ({ layer: createCommandLayer({ commands: [lend] }), platform: standIn(world) }),
};
`,
    );
    return path;
  }

  test('shows the difference, carries it out for staging, and finds nothing to do then', async () => {
    const shown = await run(['--scope', 'staging']);
    expect(shown).toMatchObject({ status: 0, err: '' });
    expect(shown.out).toContain(
      '  guild workbench, seen at once\n    lacking  stocktake  Count what is on the shelf\n',
    );
    expect(shown.out).toContain(
      'Of 1 declared command the platform holds 0 as declared, 0 differently, 1 not at all.\n  Only looked at: taxeon register --now registers.',
    );
    const carried = await run(['--scope', 'staging', '--now']);
    expect(carried.out).toContain('    guild workbench: stocktake is registered\n');
    expect(carried.out).toContain('The platform now holds the one declared command. 1 is new there.\n');
    const again = await run(['--scope', 'staging']);
    expect(again.out).toContain('The platform holds the one declared command as declared.');
    const rest = JSON.parse((await run(['--json'])).out);
    expect(
      rest.scopes.map(({ scope, entries }: { scope: unknown; entries: { state: string }[] }) => [
        scope,
        entries[0]?.state,
      ]),
    ).toEqual([
      ['everywhere', 'lacking'],
      [{ guild: 'oddmere' }, 'lacking'],
      [{ guild: 'pellbrook' }, 'lacking'],
      [{ guild: 'workbench' }, 'same'],
    ]);
  });

  test('a changed description is that field alone; a changed handler is nothing', async () => {
    const own = { OWN_TOKEN: 'own' };
    await run(['--now', '--config', config('Lend a tool')], own);
    expect((await run(['--config', config('Lend a tool', 'another answer')], own)).out).toContain(
      'The platform holds the one declared command as declared.',
    );
    const { out } = await run(['--config', config('Lend a tool to somebody')], own);
    expect(out).toContain(
      '    differs  lend  field        registered     declared\n                   description  "Lend a tool"  "Lend a tool to somebody"\n',
    );
    expect(out.match(/ differs /g)).toHaveLength(1);
  });

  test('--manifest prints it and needs no credential', async () => {
    const { status, out } = await run(['--manifest'], {});
    expect(status).toBe(0);
    expect(JSON.parse(out)).toMatchObject({
      version: 1,
      commands: expect.arrayContaining([expect.objectContaining({ name: 'borrow', names: { pl: 'wypożycz' } })]),
    });
  });

  test('takes the credential from a file, too, and never prints it', async () => {
    const path = join(folder, 'token');
    writeFileSync(path, 'demo\n');
    expect((await run(['--scope', 'staging'], { ODDMERE_TOKEN_FILE: path, ODDMERE_REGISTRY: registry })).status).toBe(
      0,
    );
    const { status, out, err } = await run([], { ODDMERE_TOKEN: 'a-secret-token', ODDMERE_REGISTRY: registry });
    expect({ status, err }).toEqual({ status: 2, err: 'taxeon: The token is not known here\n' });
    expect(out + err).not.toContain('a-secret-token');
  });

  const wrong: [string, string[], Readonly<Record<string, string>>, RegExp][] = [
    ['no credential', [], {}, /^taxeon: Set ODDMERE_TOKEN to the credential/],
    [
      'a file that is not there',
      [],
      { ODDMERE_TOKEN_FILE: '/nowhere/token' },
      /^taxeon: The file that ODDMERE_TOKEN_FILE names does not read/,
    ],
    [
      'a missing authorisation',
      ['--now', '--scope', 'staging', 'everywhere'],
      { ODDMERE_TOKEN: 'looking', ODDMERE_REGISTRY: registry },
      /^taxeon: The token has no authorisation "register"; give it that one\n$/,
    ],
    [
      'an unknown guild',
      ['--scope', 'elsewhere'],
      env,
      /^taxeon: There is no guild "elsewhere", or the bot is not in it\n$/,
    ],
  ];
  test.each(wrong)('%s is told in a sentence', async (_, args, more, message) => {
    const { status, err } = await run(args, more);
    expect({ status, err: message.test(err) ? 'as expected' : err }).toEqual({ status: 2, err: 'as expected' });
  });
});

describe('taxeon limits', () => {
  const path = join(folder, 'limits.db');
  const limit = (id: string) => ({ id, uses: 3, windowMs: 600_000 });

  test('lists what is live, for all or for one, and forgets it', async () => {
    const store = fileStore({ path });
    await store.acquire([limit('irc/fine/user'), limit('irc/fine/userHere')], ['wren', '7:oddmere/wren'], [2, 1]);
    await store.acquire([limit('irc/announce/guild')], ['oddmere']);
    await store.close();
    expect((await taxeon(['limits', '--store', path])).out).toMatch(
      /limit +counted for +uses +last one counts for\n +irc\/announce\/guild +oddmere +1 +(?:10|9) minutes.*\n +irc\/fine\/userHere +oddmere wren +1 .*\n +irc\/fine\/user +wren +2 /,
    );
    const ofGuild = JSON.parse((await taxeon(['limits', '--store', path, '--of', 'oddmere', '--json'])).out);
    expect(ofGuild.limits.map(({ id }: { id: string }) => id)).toEqual(['irc/announce/guild', 'irc/fine/userHere']);
    const reset = await taxeon(['limits', '--store', path, '--of', 'wren', '--reset', 'irc/fine/user']);
    expect(reset.out).toBe('Forgotten: 2 of irc/fine/user for wren.\n');
    const again = ['limits', '--store', path, '--of', 'oddmere', '--reset', 'irc/announce/guild', '--json'];
    expect(JSON.parse((await taxeon(again)).out)).toMatchObject({ forgotten: [{ key: 'oddmere', uses: 1 }] });
    expect((await taxeon(['limits', '--store', path, '--of', 'wren'])).out).not.toMatch(/fine\/user /);
  });

  const wrong: [string, string[], RegExp][] = [
    ['no store', ['limits'], /^taxeon: taxeon limits needs --store <where>\.$/m],
    ['a store that is not there', ['limits', '--store', 'gone.db'], /^taxeon: There is no store at gone\.db; /],
    [
      'a file that is no store',
      ['limits', '--store', join(toolLibrary, 'package.json')],
      /^taxeon: .*package\.json does not open as a store: /,
    ],
    [
      'nobody to forget',
      ['limits', '--store', path, '--reset', 'irc/fine/user'],
      /^taxeon: Say whose uses to forget with --of ID\./,
    ],
    [
      'nothing to forget',
      ['limits', '--store', path, '--of', 'pim', '--reset', 'irc/fine/user'],
      /^taxeon: Nothing of "irc\/fine\/user" is live for pim; /,
    ],
  ];
  test.each(wrong)('%s is told in one sentence, with exit status 2', async (_, args, expected) => {
    const { status, err } = await taxeon(args);
    expect(err).toMatch(expected);
    expect(err).not.toMatch(/^\s+at /m);
    expect(status).toBe(2);
  });
});

describe('bad input is told in one sentence, with exit status 2 and no stack', () => {
  const file = (name: string, text: string) => {
    const path = join(folder, name);
    writeFileSync(path, text);
    return path;
  };
  const wrong: [string, () => string[], RegExp][] = [
    [
      'an unknown option',
      () => ['demo', '--fast'],
      /^taxeon: There is no --fast in taxeon demo; taxeon demo --help shows what there is\.$/m,
    ],
    [
      'a misspelt option',
      () => ['demo', '--stoer', 'x'],
      /^taxeon: There is no --stoer in taxeon demo; did you mean --store\?$/m,
    ],
    ['a misspelt command', () => ['explian'], /^taxeon: There is no taxeon explian; did you mean explain\?$/m],
    ['an unknown command', () => ['play'], /^taxeon: There is no taxeon play; taxeon --help shows what there is\.$/m],
    [
      'too much',
      () => ['explain', '!shelf', 'hand'],
      /^taxeon: There is too much behind taxeon explain; what has several words/,
    ],
    [
      'an option without its value',
      () => ['explain', '!shelf', '--as'],
      /^taxeon: --as needs a <person> behind it\.$/m,
    ],
    ['an unknown shell', () => ['completion', 'shelf'], /^taxeon: <shell> is bash, zsh or fish, and not "shelf"\.$/m],
    ['no line', () => ['explain'], /^taxeon: taxeon explain needs a <line> behind it\.$/m],
    [
      'an unknown surface',
      () => ['explain', 'x', '--surface', 'voice'],
      /^taxeon: --surface is text, slash or console, and not "voice"\.$/m,
    ],
    [
      'a slash call that does not read',
      () => ['explain', '/fine who=wren 50', '--as', 'ines', '--surface', 'slash'],
      /^taxeon: "50" has no value; write 50=…, and quotes around a value with spaces\.$/m,
    ],
    [
      'a slash call with an open quote',
      () => ['explain', '/fine who="wren', '--as', 'ines', '--surface', 'slash'],
      /^taxeon: "who="wren" does not read; write name=value\.$/m,
    ],
    ['nobody', () => ['explain', 'x'], /^taxeon: Say who types it with --as PERSON; there are mallet, ines/],
    [
      'an unknown person',
      () => ['explain', 'x', '--as', 'zed'],
      /^taxeon: There is no person "zed"; there are mallet, ines/,
    ],
    [
      'an unknown guild',
      () => ['explain', 'x', '--as', 'ines', '--in', 'moon'],
      /^taxeon: There is no guild "moon"; there are oddmere, /,
    ],
    [
      'an unknown channel',
      () => ['explain', 'x', '--as', 'ines', '--in', 'oddmere/moon'],
      /^taxeon: There is no channel "moon" in oddmere; /,
    ],
    [
      'somebody who is not there',
      () => ['explain', 'x', '--as', 'pim', '--in', 'pellbrook'],
      /^taxeon: Pim is not in Pellbrook Mending Room\.$/m,
    ],
    ['an unknown guild for a table', () => ['access', '--in', 'moon'], /^taxeon: There is no guild "moon"; there are /],
    ['nobody for a table', () => ['access', '--as', 'zed'], /^taxeon: There is no "zed" in Oddmere Tool Library; /],
    [
      'an unknown format',
      () => ['access', '--format', 'pdf'],
      /^taxeon: --format is table, csv or html, and not "pdf"\.$/m,
    ],
    [
      'a missing configuration',
      () => ['explain', 'x', '--config', 'gone.ts'],
      /^taxeon: There is no configuration at gone\.ts; /,
    ],
    [
      'a configuration that does not parse',
      () => ['explain', 'x', '--config', file('broken.ts', 'export default {')],
      /^taxeon: .*broken\.ts:1 does not load: /,
    ],
    [
      'one without a bot',
      () => ['explain', 'x', '--config', file('empty.ts', 'export const x: number = 1;')],
      /has no default export; give it one made with defineConfig/,
    ],
    [
      'one whose data is missing',
      () => [
        'explain',
        'x',
        '--config',
        file(
          'gone.config.ts',
          "import { readFileSync } from 'node:fs';\nexport default { open: () => readFileSync('gone.yaml') };",
        ),
      ],
      /does not open its bot: ENOENT.*gone\.yaml/,
    ],
  ];
  test.each(wrong)('%s', async (_, args, expected) => {
    const { status, err } = await taxeon(args());
    expect(err).toMatch(expected);
    expect(err).not.toMatch(/^\s+at /m);
    expect(status).toBe(2);
  });
});

describe('taxeon check', () => {
  const config = (name: string, commands: string) => {
    const path = join(folder, name);
    writeFileSync(
      path,
      `import { arg, command, createCommandLayer } from '${pathToFileURL(join(folders, 'taxeon/dist/index.js')).href}';
import { standIn } from '${pathToFileURL(join(folders, 'testing/dist/index.js')).href}';
const who = arg.member();
const run = () => 'done';
const world = { bot: { id: 'mallet', name: 'Mallet' }, permissions: ['ring'], people: [], guilds: [] };
export default { open: (given) => ({ layer: createCommandLayer({ ...given, roles: { steward: ['fine'] }, commands: [${commands}] }), platform: standIn(world, given) }) };
`,
    );
    return ['check', '--config', path];
  };
  const looks = config(
    'looks.config.mjs',
    `command({ name: 'drop', description: 'x', args: { who }, run }),
     command({ name: 'fine', description: 'x', args: { who }, requires: ({ caller }) => [caller.can('fien')], run }),
     command({ name: 'lamp', description: 'x', requires: ({ caller }) => [caller.can('moon')], run })`,
  );
  const fine = config(
    'fine.config.mjs',
    `command({ name: 'fine', description: 'x', args: { who }, requires: ({ caller, bot }) => [caller.can('fine'), caller.outranks('who'), bot.can('ring')], run })`,
  );
  const half = config(
    'half.config.mjs',
    `command({ name: 'swap', description: 'x', args: { who, whom: who }, requires: ({ caller, bot }) => [caller.outranks('who'), bot.can('ring')], run })`,
  );
  const wrong = config('wrong.config.mjs', `command({ name: 'a', description: 'x', require: () => [], run }), 7`);

  test('tells what looks as if it were not meant, and that the bot opens', async () => {
    const { status, out, err } = await taxeon(looks);
    expect({ status, err }).toEqual({ status: 0, err: '' });
    for (const told of [
      'names a member, “who”, and everybody may run it',
      'asks for no rank: who may run it may do it to people above them',
      'asks for no permission of the bot',
      'asks for the permission fien, which no role gives',
      'did you mean\n      fine?',
      'asks for the permission moon, which no role gives',
      'The bot opens. 5 things to look at.',
    ]) {
      expect(out).toContain(told);
    }
    expect(JSON.parse((await taxeon([...looks, '--json'])).out)).toMatchObject({
      problems: [],
      warnings: [
        { command: 'drop' },
        { command: 'fine' },
        { command: 'fine' },
        { command: 'fine' },
        { command: 'lamp' },
      ],
    });
    expect((await taxeon(fine)).out).toContain('The bot opens, and nothing looks wrong.');
    expect((await taxeon(half)).out).toContain("add caller.outranks('whom')");
  });

  test('ends with 1 where a declaration is wrong, and tells all of them', async () => {
    const { status, out } = await taxeon(wrong);
    expect(status).toBe(1);
    expect(out).toContain('a, require: there is no such field; write requires');
    expect(out).toContain('(layer), commands[1]: is 7, which is no command');
    expect(out).toContain('The bot does not open: 2 problems.');
    const { status: asJson, out: json } = await taxeon([...wrong, '--json']);
    expect([asJson, JSON.parse(json).problems.length]).toEqual([1, 2]);
  });

  test('ends with 2 where there is no bot to look at', async () => {
    expect((await taxeon(['check', '--config', join(folder, 'none.config.mjs')])).status).toBe(2);
  });
});

test('names that are hostile move no cursor, turn no line around, and are no formula', async () => {
  const path = join(folder, 'hostile.config.mjs');
  const evil = '=1+1\\u001b[31m\\u202E\\nline';
  writeFileSync(
    path,
    `import { arg, command, createCommandLayer } from '${pathToFileURL(join(folders, 'taxeon/dist/index.js')).href}';
import { standIn } from '${pathToFileURL(join(folders, 'testing/dist/index.js')).href}';
const fine = command({ name: 'fine', description: 'x', args: { who: arg.member() }, requires: ({ caller }) => [caller.outranks('who')], run: () => 'done' });
const roles = [{ name: '${evil}', rank: 1 }];
const world = { bot: { id: 'mallet', name: '${evil}' }, people: [{ id: 'pim', name: '${evil}' }, { id: 'wren', name: '${evil}2' }], guilds: [{ id: 'g', name: '${evil}', channels: ['c'], roles, members: { mallet: [], pim: [], wren: ['${evil}'] } }] };
export default { open: () => ({ layer: createCommandLayer({ commands: [fine], prefixes: ['!'] }), platform: standIn(world) }) };
`,
  );
  const config = ['--config', path];
  const outs = await Promise.all([
    taxeon(['access', '--in', 'g', '--as', 'pim', ...config]),
    taxeon(['access', '--in', 'g', '--format', 'csv', ...config]),
    taxeon(['access', '--in', 'g', '--format', 'html', ...config]),
    taxeon(['explain', '!fine @wren', '--as', 'pim', '--in', 'g', ...config]),
    taxeon(['check', ...config]),
  ]);
  for (const { status, out, err } of outs) {
    expect({ status, err }).toEqual({ status: 0, err: '' });
    expect(out.replaceAll('\n', '')).not.toMatch(/[\p{Cc}\u202A-\u202E]/u);
    expect(out).not.toContain('\nline');
  }
  expect(outs[1]?.out).toContain(",'=1+1[31m line,");
});
