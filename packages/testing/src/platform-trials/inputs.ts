/** What an adapter hands in: who did what, where, under which id. */
import type { Trial } from '../trial.js';
import {
  A_WHILE_MS,
  expectEqual,
  expectThat,
  NOTHING_TYPED,
  needed,
  type PlatformProbe,
  platformTrial,
  trialPause,
  useCommand,
} from './kit.js';

export const inputTrials: readonly Trial<PlatformProbe>[] = [
  platformTrial('hands a typed line to the layer, and its reply to the channel', async (probe, { seen }) => {
    if (probe.type === undefined) return NOTHING_TYPED;
    await probe.type('!label oiled today');
    expectEqual(await probe.heard(), 'oiled today', 'the reply');
    const { input, outcome } = await seen();
    expectEqual(outcome.status, 'completed', 'the status');
    expectEqual(input.surface, 'text', 'the surface');
    expectEqual(input.text, '!label oiled today', 'the text');
    return undefined;
  }),
  platformTrial('says who typed, as a member with roles, permissions and a rank', async (probe, { seen }) => {
    await useCommand(probe, 'label', 'a');
    const { caller } = (await seen()).input;
    expectEqual(caller.name, probe.somebody.name, "the caller's name");
    expectEqual(caller.kind, 'member', 'what the caller is');
    if (caller.kind !== 'member') return;
    expectThat(Array.isArray(caller.roles), 'the roles are no list');
    expectThat(caller.permissions instanceof Set, 'the permissions are no Set');
    expectThat(['number', 'undefined'].includes(typeof caller.rank), 'the rank is no number');
    expectThat(caller.isBot !== true, 'a person is told as a bot');
  }),
  platformTrial('gives one id to one person', async (probe, { seen }) => {
    await useCommand(probe, 'label', 'a');
    await useCommand(probe, 'label', 'b');
    const first = (await seen()).input;
    expectEqual((await seen()).input.caller.id, first.caller.id, "the caller's id");
  }),
  platformTrial('gives different ids to different people', async (probe, { seen }) => {
    const { other } = probe;
    if (other === undefined) return 'the probe has nobody else who types';
    await useCommand(probe, 'label', 'a');
    const first = (await seen()).input;
    await useCommand(other, 'label', 'b');
    const second = (await seen()).input;
    expectEqual(second.caller.name, other.name, "the other's name");
    expectThat(second.caller.id !== first.caller.id, 'two people have one id');
    return undefined;
  }),
  platformTrial('tells the place: the same guild and channel each time', async (probe, { seen }) => {
    await useCommand(probe, 'label', 'a');
    await useCommand(probe, 'label', 'b');
    const [first, second] = [(await seen()).input.place, (await seen()).input.place];
    expectEqual(first.kind, 'guild', 'the place');
    expectEqual(JSON.stringify(second), JSON.stringify(first), 'the place of the second line');
  }),
  platformTrial('tells when it was, in milliseconds', async (probe, { seen }) => {
    await useCommand(probe, 'label', 'a');
    await trialPause(A_WHILE_MS);
    await useCommand(probe, 'label', 'b');
    const [first, second] = [(await seen()).input.at, (await seen()).input.at];
    expectThat(Number.isFinite(first) && first > 1e11, `${first} are no milliseconds since 1970`);
    expectThat(second >= first, 'time goes back');
  }),
  platformTrial('hands in lines in the order in which they were typed', async (probe, { seen }) => {
    if (probe.type === undefined) return NOTHING_TYPED;
    for (const n of [1, 2, 3, 4]) await probe.type(`line ${n}`);
    for (const n of [1, 2, 3, 4]) expectEqual((await seen()).input.text, `line ${n}`, `line ${n}`);
    return undefined;
  }),
  platformTrial('passes ordinary chat along and says nothing to it', async (probe, { seen }) => {
    if (probe.type === undefined) return NOTHING_TYPED;
    await probe.type('good morning');
    expectEqual((await seen()).outcome.status, 'ignored', 'the status');
    await useCommand(probe, 'label', 'next');
    expectEqual(await probe.heard(), 'next', 'the first thing said');
    return undefined;
  }),
  platformTrial('runs nothing that the bot itself says', async (probe, { seen }) => {
    if (probe.type === undefined) return NOTHING_TYPED;
    await useCommand(probe, 'label', '!label again');
    expectEqual(await probe.heard(), '!label again', 'what is said');
    await trialPause(A_WHILE_MS);
    await useCommand(probe, 'label', 'next');
    expectEqual(await probe.heard(), 'next', 'what is said next');
    await seen();
    let { input } = await seen();
    // An adapter may hand in what the bot says, if it says who did.
    if ('isBot' in input.caller && input.caller.isBot === true) ({ input } = await seen());
    expectEqual(input.text, '!label next', 'the next line of a person');
    return undefined;
  }),
  platformTrial('gives each event an id of its own, and the same when it comes again', async (probe, { seen }) => {
    if (!probe.platform.capabilities.eventIds) return 'its events have no ids';
    const redeliver = needed(probe, 'redeliver', 'event ids');
    await useCommand(probe, 'label', 'a');
    await useCommand(probe, 'label', 'b');
    const [first, second] = [(await seen()).input.id, (await seen()).input.id];
    expectThat(typeof first === 'string' && first !== '', 'an event has no id');
    expectThat(first !== second, 'two events have one id');
    await redeliver();
    await useCommand(probe, 'label', 'c');
    const again = await seen();
    // An adapter may know by itself what comes again, and hand it in no more.
    if (again.input.text === '!label c' || again.input.options?.['text'] === 'c') return undefined;
    expectEqual(again.input.id, second, 'the id of what comes again');
    expectEqual(again.outcome.status, 'ignored', 'what becomes of it');
    return undefined;
  }),
  platformTrial('knows when a line speaks to the bot', async (probe) => {
    if (probe.platform.directory.addressed === undefined) return 'it does not tell who is spoken to';
    const addressing = needed(probe, 'addressing', '`directory.addressed`');
    await needed(probe, 'type', '`directory.addressed`')(`${addressing}label oiled`);
    expectEqual(await probe.heard(), 'oiled', 'the reply');
    return undefined;
  }),
  platformTrial('tells a direct message as one, and answers it there alone', async (probe, { seen }) => {
    if (probe.whisper === undefined) return 'the probe has no direct messages';
    const heardAlone = needed(probe, 'heardAlone', 'direct messages');
    await probe.whisper('!label between us');
    expectEqual(await heardAlone(), 'between us', 'the reply');
    const { input } = await seen();
    expectEqual(input.place.kind, 'direct', 'the place');
    expectEqual(input.caller.name, probe.somebody.name, "the caller's name");
    await useCommand(probe, 'label', 'for all');
    expectEqual(await probe.heard(), 'for all', 'the first thing said in the channel');
    return undefined;
  }),
  platformTrial('hands in a slash command with its options, and its answer to the channel', async (probe, { seen }) => {
    if (probe.invoke === undefined) {
      if (probe.platform.hold === undefined && probe.platform.registrar === undefined)
        return 'it has no slash commands';
    }
    await needed(probe, 'invoke', 'slash commands')(['label'], { text: 'by slash' });
    expectEqual(await probe.heard(), 'by slash', 'the reply');
    const { input } = await seen();
    expectEqual(input.surface, 'slash', 'the surface');
    expectEqual(input.caller.name, probe.somebody.name, "the caller's name");
    return undefined;
  }),
];
