import { PassThrough } from 'node:stream';
import { runFor, standIn, virtualClock } from '@taxeon/testing';
import { arg, command, createCommandLayer, type LayerOptions } from 'taxeon';
import { askInChat } from 'taxeon/asking';
import { type ConsoleOptions, consolePlatform } from 'taxeon/console';
import type { Platform } from 'taxeon/platform';
import { complete } from 'taxeon/queries';
import { describe, expect, onTestFinished, test } from 'vitest';
import { oddmereData, startOfAfternoon } from '../../../test/support/oddmere.js';
import { until } from '../../../test/support/programs.js';

const fine = command({
  name: 'fine',
  description: 'Charge a member',
  in: 'guild',
  args: { who: arg.member(), pence: arg.integer({ max: 500 }) },
  whenMissing: 'ask',
  requires: ({ caller }) => [caller.can('fine')],
  async run({ args, guild, tell, post }) {
    await tell(args.who, 'You are fined.');
    await post({ id: 'oddmere/workshop', name: '#workshop' }, 'Somebody is fined.');
    return `${args.who.name} pays ${args.pence} in ${guild.name}.`;
  },
});
const reserve = command({
  name: 'reserve',
  description: 'Reserve the shed',
  async run(call) {
    const days = await call.ask(arg.integer(), 'For how many days?');
    return `Reserved for ${days} days.`;
  },
});
const lamp = command({ name: 'lamp', description: 'Light the lamp', run: () => 'The \u001b[31mlamp is lit.' });

/** A bot on the simulated platform, with a console beside it. */
async function scene(options: Partial<ConsoleOptions> = { guild: 'oddmere' }, more: Partial<LayerOptions> = {}) {
  const clock = virtualClock(startOfAfternoon);
  const world = standIn(oddmereData().world, { clock });
  const logged: string[] = [];
  const log = (_: object, message: string) => void logged.push(message);
  const layer = createCommandLayer({
    commands: [fine, reserve, lamp],
    prefixes: ['!'],
    asking: askInChat({ within: '1m' }),
    console: { can: ['fine'] },
    clock,
    log: { error: log, warn: log },
    ...more,
  });
  await world.serve(layer);
  const [input, output] = [new PassThrough(), new PassThrough()];
  let out = '';
  output.on('data', (data) => (out += data));
  const serving = await consolePlatform({ about: world, input, output, clock, ...options }).serve(layer);
  onTestFinished(async () => void (await layer.close()));
  const says = (text: string) => until(() => out.includes(text), `it says ${text}; it said ${out}`);
  return {
    clock,
    world,
    layer,
    input,
    output,
    serving,
    says,
    logged,
    out: () => out,
    types: (line: string) => input.write(`${line}\n`),
  };
}

describe('the console of a bot that runs', () => {
  test('is about a guild: its people are found, told and posted to, and the answer stands in the terminal alone', async () => {
    const { world, types, says } = await scene();
    types('fine wren 50');
    await says('  Wren pays 50 in Oddmere Tool Library.\n');
    expect(world.posts.map(({ notice, place }) => [place.kind, notice.body])).toEqual([
      ['direct', 'You are fined.'],
      ['guild', 'Somebody is fined.'],
    ]);
  });

  test('asks, is answered by the next line, and tells that nobody did', async () => {
    const { types, says, world, clock } = await scene();
    types('fine wren');
    await says('I still need “pence”');
    types('50');
    await says('Wren pays 50');
    types('reserve');
    await says('For how many days?');
    types('3');
    await says('Reserved for 3 days.');
    const posts = world.posts.length;
    types('fine');
    await says('I still need “who”');
    await runFor(clock, '2m');
    await says('✗ There was no answer');
    expect(world.posts.length).toBe(posts);
  });

  test('is asked by itself: nobody in the channel answers for it, whatever their id', async () => {
    const { types, says, world, out, layer } = await scene();
    types('reserve');
    await says('For how many days?');
    const asked = new Promise<{ id: string }>((resolve) => layer.on('asked', ({ input }) => resolve(input.caller)));
    types('many');
    const { id } = await asked;
    const typed = world.typed({ person: 'wren', place: 'oddmere/counter', text: '3' });
    const { outcome } = await world.send({ ...typed, caller: { ...typed.caller, id } });
    expect(outcome).toEqual({ status: 'ignored', because: 'chat' });
    expect(out()).not.toContain('Reserved');
  });

  test('goes elsewhere by --in, tells its words, and goes on behind a mistake', async () => {
    const { types, says } = await scene();
    types('--in moon');
    await says('✗ The bot is not in "moon"; it is in oddmere, pellbrook, workbench.');
    types('--in oddmere/moon');
    await says('✗ There is no channel "moon"; there are #counter');
    types('--in pellbrook');
    await says('About pellbrook.');
    types('fine ines 5');
    await says('pays 5 in Pellbrook Mending Room');
    types('--in nothing');
    await says('About console.');
    types('fine ines 5');
    await says('✗ ');
    types('--wiat 3m');
    await says('There is no --wiat; there are --in, --help and --end.');
    types('--help');
    await says('--end    ends the console; the bot goes on');
  });

  test('lets nothing move the cursor', async () => {
    const { types, says, out } = await scene();
    types('lamp');
    await says('The [31mlamp is lit.');
    expect(out()).not.toContain('\u001b');
  });

  test.each(['--end', undefined])('ends with %s, and the bot goes on', async (line) => {
    const { types, input, world, serving } = await scene();
    if (line === undefined) input.end();
    else types(line);
    await serving.close();
    const { outcome } = await world.send(world.typed({ person: 'wren', place: 'oddmere/counter', text: '!lamp' }));
    expect(outcome.status).toBe('completed');
  });

  test.each(['input', 'output'] as const)('whose %s breaks ends, and the bot goes on', async (which) => {
    const { world, input, output, types } = await scene();
    const broken = { input, output }[which];
    broken.destroy(new Error('the terminal is gone'));
    await new Promise((resolve) => setTimeout(resolve, 5));
    if (which === 'output') types('lamp');
    const { outcome } = await world.send(world.typed({ person: 'wren', place: 'oddmere/counter', text: '!lamp' }));
    expect(outcome.status).toBe('completed');
  });

  test('is closed with the layer', async () => {
    const { layer, input } = await scene();
    await layer.close();
    expect(input.isPaused()).toBe(true);
  });

  test('is about nothing where it is told nothing, and not where the bot is no more', async () => {
    const alone = await scene({});
    alone.types('lamp');
    await alone.says('The ');
    const { says, types } = await scene({ guild: 'moon' });
    types('lamp');
    await says('✗ The bot is not in "moon"');
  });

  test('a platform that hangs holds up one line', async () => {
    const hanging = standIn(oddmereData().world);
    const about: Platform = { ...hanging, guilds: () => new Promise(() => undefined) };
    const { types, says, clock } = await scene({ about, guild: 'oddmere' });
    types('lamp');
    await new Promise((resolve) => setTimeout(resolve, 20));
    clock.advance('6s');
    await says('✗ stand-in does not say where the bot is; try again.');
    types('--in nothing');
    await says('About console.');
  });

  test('paces what goes to the platform, and nothing that stands in the terminal', async () => {
    const turns: string[] = [];
    const { world: plain } = await scene();
    const turn = ({ channel }: { readonly channel: string }) => void turns.push(channel);
    const about: Platform = { ...plain, capabilities: { ...plain.capabilities, pace: { turn } } };
    const { types, says } = await scene({ about, guild: 'oddmere' });
    types('fine wren 50');
    await says('Wren pays 50');
    expect(turns).toEqual(['wren', 'oddmere/workshop']);
  });

  test('tells everything that is wrong with its options', () => {
    const options = { guild: 'oddmere', about: {}, output: 1, cmpletion: complete } as unknown as ConsoleOptions;
    expect(() => consolePlatform(options)).toThrow(
      [
        'consolePlatform: `about` is an object; give a platform, such as irc gives',
        '     `output` is 1; give a stream to write to',
        '     `cmpletion` there is no such field; write completion',
      ].join('\n'),
    );
    expect(() => consolePlatform(null as never)).toThrow('consolePlatform: what it is given is null; give an object');
    expect(() => consolePlatform({ guild: 'oddmere' })).toThrow(
      '`guild` needs `about`, the platform that the guild is of',
    );
  });
});
