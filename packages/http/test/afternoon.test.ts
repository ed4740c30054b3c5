/** The demo's afternoon, once on the stand-in alone, and once with every slash command posted to an endpoint. */
import { readFileSync } from 'node:fs';
import { type DemoData, mallet } from '@oddmere/tool-library';
import { type SlashAnswer, slashEndpoint } from '@taxeon/http';
import { type StandIn, standIn, type VirtualClock, virtualClock } from '@taxeon/testing';
import { checkTryout, keptLog, type Played, playTryout } from '@taxeon/testing/tryouts';
import type { CommandLayer, Outcome } from 'taxeon';
import type { Input, Platform } from 'taxeon/platform';
import { expect, test } from 'vitest';
import { parse } from 'yaml';
import { gist, oddmereData } from '../../../test/support/oddmere.js';
import { standInText } from '../../testing/src/stand-in/posts.js';

const file = new URL('../../../examples/tool-library/data/afternoon.tryout.yaml', import.meta.url);
const whole = checkTryout(parse(readFileSync(file, 'utf8')));
/** A form can be shown on the stand-in alone: a system of posts is answered what is missing. */
const asksByForm = (line: object) => 'fills' in line || ('invokes' in line && line.invokes === 'overdue close');
const tryout = { ...whole, lines: whole.lines.filter((line) => !asksByForm(line)) };

/** The same layer, to which slash commands come as posts; what is answered is said on the stand-in. */
function posting(layer: CommandLayer, room: StandIn, clock: VirtualClock, posted: Input[]): CommandLayer {
  const inputs = new Map<string, Input>();
  const outcomes = new Map<string, Outcome>();
  const say = ({ notice, isPrivate, mentions }: SlashAnswer, event: unknown) => {
    const to = inputs.get(String(event)) as Input;
    return void room.deliver({ notice, visibleTo: isPrivate ? 'caller' : 'everyone', mentions }, to, '');
  };
  const { directory, capabilities } = room;
  const endpoint = slashEndpoint(
    {
      async handle(input, platform) {
        posted.push(input);
        const outcome = await layer.handle(input, platform);
        outcomes.set(input.id ?? '', outcome);
        return outcome;
      },
    },
    {
      name: room.name,
      proof: () => true,
      read({ get }) {
        const part = (name: string) => (get('caller', 'kind') === 'member' ? { [name]: get('caller', name) } : {});
        return {
          id: get('event'),
          caller: {
            id: get('caller', 'id'),
            name: get('caller', 'name'),
            ...part('permissions'),
            ...part('roles'),
            ...part('rank'),
            ...part('ownsGuild'),
          },
          ...(get('guild') === undefined
            ? { place: { channel: { id: get('channel', 'id'), name: get('channel', 'name') } } }
            : {
                place: {
                  guild: { id: get('guild', 'id'), name: get('guild', 'name') },
                  channel: { id: get('channel', 'id'), name: get('channel', 'name') },
                },
              }),
          command: get('command'),
          options: get('options'),
          ...(get('locale') === undefined ? {} : { locale: get('locale') }),
        };
      },
      directory,
      deadline: { ms: capabilities.replyDeadlineMs ?? 0 },
      longestReply: capabilities.longestReply ?? 0,
      answer: (answer) => answer,
      held({ isPrivate, post }) {
        room.hold?.(inputs.get(String(post.get('event'))) as Input, isPrivate ? 'caller' : 'everyone');
        return { held: true };
      },
      send: ({ answer, post }) => say(answer, post.get('event')),
      tell: (person, { notice }) => void room.tell?.(person, { notice, visibleTo: 'caller' }),
      post: (channel, { notice }) => void room.post?.(channel, { notice, visibleTo: 'everyone' }),
      clock,
    },
  );

  async function handle(input: Input, from?: Platform): Promise<Outcome> {
    if (input.surface !== 'slash' || input.fills !== undefined) return layer.handle(input, from);
    const { id = '', caller, place, path, options, locale } = input;
    inputs.set(id, input);
    const where =
      place.kind === 'guild'
        ? { guild: place.guild, channel: place.channel }
        : place.kind === 'direct'
          ? { channel: place.channel }
          : {};
    const plain =
      caller.kind === 'member'
        ? {
            ...caller,
            permissions: [...caller.permissions],
            roles: caller.roles.map(({ id: role, name }) => ({ id: role, name })),
          }
        : caller;
    const response = await endpoint(
      new Request('https://bot.oddmere.example/slash', {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({ event: id, caller: plain, ...where, command: path, options, locale }),
      }),
    );
    const said = response.status === 200 ? await response.json() : undefined;
    if (said !== undefined && said.held !== true) say(said as SlashAnswer, id);
    while (!outcomes.has(id)) await new Promise((done) => setImmediate(done));
    return outcomes.get(id) as Outcome;
  }
  return { ...layer, handle };
}

async function afternoon(
  through: (layer: CommandLayer, room: StandIn, clock: VirtualClock) => CommandLayer,
): Promise<Played[]> {
  const clock = virtualClock(Date.parse(tryout.begins));
  const data: DemoData = oddmereData();
  const log = keptLog();
  let references = 0;
  const layer = mallet(data, { clock, log, owners: ['stand-in/odalys'], reference: () => `ref-${++references}` });
  const room = standIn(data.world, { clock });
  const events = Object.fromEntries(
    tryout.lines.flatMap((line) => ('happens' in line ? [[line.happens, () => undefined]] : [])),
  );
  const played: Played[] = [];
  for await (const one of playTryout(
    tryout,
    { layer: through(layer, room, clock), platform: room, events },
    clock,
    log,
  ))
    played.push(one);
  await layer.close();
  return played;
}

test('gives the same outcomes, said to the same people', async () => {
  const posted: Input[] = [];
  const [alone, over] = [
    await afternoon((layer) => layer),
    await afternoon((layer, room, clock) => posting(layer, room, clock, posted)),
  ];
  const lines = (played: readonly Played[]) =>
    played.flatMap((one) =>
      one.kind === 'exchange'
        ? [
            {
              line: JSON.stringify(one.line),
              ...gist(one.exchange.outcome),
              delivery: 'delivery' in one.exchange.outcome ? one.exchange.outcome.delivery : undefined,
              said: one.exchange.posts.map(({ visibleTo, notice }) => [visibleTo, standInText(notice)]),
            },
          ]
        : [],
    );
  const [expected, actual] = [lines(alone), lines(over)];
  const differing = expected.flatMap((one, index) =>
    JSON.stringify(one) === JSON.stringify(actual[index]) ? [] : [[one, actual[index]]],
  );
  expect(posted.length).toBeGreaterThan(10);
  expect(differing).toEqual([]);
});
