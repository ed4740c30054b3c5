/** What an adapter says: to whom, whole, as it was meant, and what it does with it afterwards. */

import { plainText } from 'taxeon';
import type { Trial } from '../trial.js';
import {
  expectEqual,
  expectRefused,
  expectThat,
  NOTHING_TYPED,
  needed,
  type PlatformProbe,
  platformTrial,
  useCommand,
} from './kit.js';

const SIGNS = '*_`~|^=+@#&%$!<>[](){}\\/';

/** What would be markup, a ping, or another line somewhere: each sign around a word, doubled, and in a row with the next. */
const HOSTILE = [...SIGNS].map((sign, at) => `${sign}all${sign} ${sign}${sign}b${SIGNS[at + 1] ?? ''}c`).join(' ');

export const replyTrials: readonly Trial<PlatformProbe>[] = [
  platformTrial('says every line of a reply', async (probe) => {
    await useCommand(probe, 'shelves');
    for (const line of ['upper', 'middle', 'lower']) expectEqual(await probe.heard(), line, `the line “${line}”`);
  }),
  platformTrial('shows text as it stands', async (probe) => {
    await useCommand(probe, 'label', HOSTILE);
    // A joiner that nobody sees may stand in what would ring.
    expectEqual((await probe.heard()).replaceAll('\u2060', ''), HOSTILE, 'the reply');
  }),
  platformTrial('lets no text change what stands behind it', async (probe) => {
    await useCommand(probe, 'label', 'turned \u202earound and \u2066further');
    expectThat(!/[\u202a-\u202e\u2066-\u2069]/.test(await probe.heard()), 'a change of direction is passed on');
  }),
  platformTrial('says all of a long reply, in messages that are no longer than it claims', async (probe, { seen }) => {
    const { capabilities, deliver, measure = (notice) => plainText(notice).length } = probe.platform;
    const lengths: number[] = [];
    const handed: string[] = [];
    Object.assign(probe.platform, {
      deliver(...given: Parameters<typeof deliver>) {
        lengths.push(measure(given[0].notice));
        handed.push(plainText(given[0].notice));
        return deliver.apply(probe.platform, given);
      },
    });
    const { longestReply = Number.POSITIVE_INFINITY } = capabilities;
    await useCommand(probe, 'long');
    const { outcome } = await seen();
    const { delivery } = outcome as { delivery?: { delivered: boolean } };
    expectEqual(delivery?.delivered, true, 'whether it was delivered');
    const words = handed.join(' ').split(/\s+/);
    for (const [index, word] of words.entries()) expectEqual(word, `tool-${index}`, `word ${index + 1}`);
    for (const length of lengths) expectThat(length <= longestReply, `a message of ${length} was handed over`);
  }),
  platformTrial('says to the caller alone what is for them alone', async (probe) => {
    const { privateReplies } = probe.platform.capabilities;
    if (privateReplies === 'never') return 'it has no private replies';
    const heardAlone = needed(probe, 'heardAlone', 'private replies');
    if (privateReplies === 'always') await useCommand(probe, 'whispered', 'a secret');
    else await needed(probe, 'invoke', 'private replies to slash commands')(['whispered'], { text: 'a secret' });
    expectEqual(await heardAlone(), 'a secret', 'what is said to the caller');
    await useCommand(probe, 'label', 'for all');
    expectEqual(await probe.heard(), 'for all', 'the first thing that others see');
    return undefined;
  }),
  platformTrial('keeps the pace that it claims', async (probe, { seen }) => {
    if (probe.platform.capabilities.pace === undefined) return 'it claims no pace';
    await useCommand(probe, 'burst');
    for (let n = 1; n <= 10; n++) expectEqual(await probe.heard(), `thing ${n}`, `message ${n}`);
    const { outcome } = await seen();
    expectEqual(outcome.status, 'completed', 'the status');
    return undefined;
  }),
  platformTrial('gives each message an id of its own', async (probe, { seen }) => {
    const { platform } = probe;
    if (platform.edit === undefined && platform.remove === undefined) return 'it changes and removes nothing';
    await useCommand(probe, 'label', 'a');
    const { input } = await seen();
    const ids = new Set<string>();
    for (const body of ['one', 'two']) {
      const delivered = await platform.deliver({ notice: { body }, visibleTo: 'everyone' }, input, `trial-${body}`);
      expectEqual(typeof delivered?.id, 'string', 'the id of a message');
      ids.add(delivered?.id ?? '');
    }
    expectEqual(ids.size, 2, 'how many ids two messages have');
    return undefined;
  }),
  platformTrial('changes a message', async (probe, { seen }) => {
    if (probe.platform.edit === undefined) return 'it changes nothing';
    const shown = needed(probe, 'shown', '`edit`');
    await useCommand(probe, 'corrected');
    await seen();
    expectEqual((await shown()).join(', '), 'a hammer', 'what stands there');
    return undefined;
  }),
  platformTrial('takes a message away', async (probe, { seen }) => {
    if (probe.platform.remove === undefined) return 'it removes nothing';
    const shown = needed(probe, 'shown', '`remove`');
    await useCommand(probe, 'withdrawn');
    await seen();
    expectEqual((await shown()).join(', '), 'what stays', 'what stands there');
    return undefined;
  }),
  platformTrial('tells a person alone', async (probe) => {
    if (probe.platform.tell === undefined) return 'it tells nobody alone';
    const heardAlone = needed(probe, 'heardAlone', '`tell`');
    await useCommand(probe, 'told', 'only you');
    expectEqual(await heardAlone(), 'only you', 'what the person is told');
    expectEqual(await probe.heard(), 'delivered', 'the first thing that others see');
    return undefined;
  }),
  platformTrial('says so where a person is not there to be told', async (probe) => {
    const { platform } = probe;
    if (platform.tell === undefined) return 'it tells nobody alone';
    const nobody = { kind: 'user', id: 'nobody-at-all', name: 'nobody-at-all' } as const;
    await expectRefused('telling nobody', () =>
      platform.tell?.(nobody, { notice: { body: 'only you' }, visibleTo: 'caller' }),
    );
    return undefined;
  }),
  platformTrial('posts in a channel', async (probe) => {
    if (probe.platform.post === undefined) return 'it posts nothing';
    await useCommand(probe, 'posted', 'for the board');
    expectEqual(await probe.heard(), 'for the board', 'what is posted');
    return undefined;
  }),
  platformTrial('says so where there is no channel to post in', async (probe) => {
    const { platform } = probe;
    if (platform.post === undefined) return 'it posts nothing';
    const nowhere = { id: '#nowhere-at-all', name: '#nowhere-at-all' };
    await expectRefused('posting nowhere', () =>
      platform.post?.(nowhere, { notice: { body: 'for the board' }, visibleTo: 'everyone' }),
    );
    return undefined;
  }),
  platformTrial('takes away what was typed', async (probe) => {
    if (probe.platform.removeInput === undefined) return 'it takes nothing away that people typed';
    if (probe.type === undefined) return NOTHING_TYPED;
    const stands = needed(probe, 'stands', '`removeInput`');
    await useCommand(probe, 'tidied');
    expectEqual(await probe.heard(), 'tidy', 'the reply');
    expectEqual(await stands('!tidied'), false, 'whether it stands there still');
    return undefined;
  }),
  platformTrial('keeps a slash command open past its deadline', async (probe, { seen }) => {
    const { hold, capabilities } = probe.platform;
    if (hold === undefined) return 'it holds nothing';
    expectThat(capabilities.replyDeadlineMs !== undefined, 'it holds, and claims no `replyDeadlineMs`');
    await needed(probe, 'invoke', '`hold`')(['slow'], {});
    expectEqual(await probe.heard(), 'at last', 'the late answer');
    const { outcome } = await seen();
    const { delivery } = outcome as { delivery?: { delivered: boolean; as?: string } };
    expectEqual(delivery?.as, 'reply', 'how it was delivered');
    return undefined;
  }),
  platformTrial('shows that an answer is being made', async (probe, { seen }) => {
    const { platform } = probe;
    if (platform.typing === undefined) return 'it shows no typing';
    await useCommand(probe, 'label', 'a');
    const { input } = await seen();
    await platform.typing(input);
    return undefined;
  }),
];
