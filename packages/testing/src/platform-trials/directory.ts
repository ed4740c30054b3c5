/** Who and what an adapter knows. */
import type { Trial } from '../trial.js';
import { expectEqual, expectThat, leavesOut, type PlatformProbe, platformTrial, useCommand } from './kit.js';

export const directoryTrials: readonly Trial<PlatformProbe>[] = [
  platformTrial('finds a member by their id', async (probe, { seen, guildOf }) => {
    if (leavesOut(probe, 'member')) return 'it finds no members';
    await useCommand(probe, 'label', 'a');
    const { input } = await seen();
    const found = await probe.platform.directory.member(guildOf(input), input.caller.id);
    expectEqual(found?.name, probe.somebody.name, 'the member of the id');
    return undefined;
  }),
  platformTrial('finds members by their name, and by its beginning', async (probe, { seen, guildOf }) => {
    if (leavesOut(probe, 'membersNamed')) return 'it finds no members';
    await useCommand(probe, 'label', 'a');
    const { input } = await seen();
    const { directory } = probe.platform;
    const { name } = probe.somebody;
    for (const typed of [name, name.slice(0, -1)]) {
      const ids = (await directory.membersNamed(guildOf(input), typed)).map(({ id }) => id);
      expectThat(ids.includes(input.caller.id), `nobody is found under “${typed}”`);
    }
    return undefined;
  }),
  platformTrial('finds somebody outside of a guild, by their id', async (probe, { seen }) => {
    if (leavesOut(probe, 'user')) return 'it finds nobody';
    await useCommand(probe, 'label', 'a');
    const { caller } = (await seen()).input;
    expectEqual((await probe.platform.directory.user(caller.id))?.id, caller.id, 'the person of the id');
    return undefined;
  }),
  platformTrial('finds nobody where there is nobody', async (probe, { seen, guildOf }) => {
    await useCommand(probe, 'label', 'a');
    const guild = guildOf((await seen()).input);
    const { directory } = probe.platform;
    expectEqual(await directory.member(guild, 'nobody-at-all'), undefined, 'the member of an unknown id');
    expectEqual((await directory.membersNamed(guild, 'nobody-at-all')).length, 0, 'how many are named so');
    expectEqual(await directory.user('nobody-at-all'), undefined, 'the person of an unknown id');
    const elsewhere = { id: 'no-guild-at-all', name: 'no-guild-at-all' };
    expectEqual((await directory.membersNamed(elsewhere, probe.somebody.name)).length, 0, 'how many are elsewhere');
  }),
  platformTrial('knows the bot itself in the guild', async (probe, { seen, guildOf }) => {
    if (leavesOut(probe, 'self')) return 'it does not know the bot in a guild';
    await useCommand(probe, 'label', 'a');
    const guild = guildOf((await seen()).input);
    const { directory } = probe.platform;
    const self = await directory.self(guild);
    expectThat(self !== undefined, 'the bot does not know itself');
    expectEqual((await directory.bot())?.id, self?.id, "the bot's id outside of the guild");
    return undefined;
  }),
  platformTrial('lists the channel and the roles of a guild', async (probe, { seen, guildOf }) => {
    if (leavesOut(probe, 'channels')) return 'it lists no channels';
    await useCommand(probe, 'label', 'a');
    const { input } = await seen();
    const guild = guildOf(input);
    const channels = await probe.platform.directory.channels(guild);
    const { place } = input;
    if (place.kind === 'guild')
      expectThat(
        channels.some(({ id }) => id === place.channel.id),
        'the channel is not among those of the guild',
      );
    expectThat(Array.isArray(await probe.platform.directory.roles(guild)), 'the roles are no list');
    return undefined;
  }),
  platformTrial('reads back the mention that it writes', async (probe, { seen }) => {
    const { directory } = probe.platform;
    if (directory.mention === undefined) return 'it has no mentions';
    await useCommand(probe, 'label', 'a');
    const { caller } = (await seen()).input;
    if (caller.kind !== 'member') throw new Error('the caller is no member');
    const written = directory.mention(caller);
    expectEqual(directory.mentioned(written, 'person'), caller.id, `the id in “${written}”`);
    expectEqual(directory.mentioned('no mention', 'person'), undefined, 'the id in a text without a mention');
    return undefined;
  }),
  platformTrial('lists the guilds that the bot is in', async (probe, { seen, guildOf }) => {
    if (probe.platform.guilds === undefined) return 'it does not tell its guilds';
    await useCommand(probe, 'label', 'a');
    const { id } = guildOf((await seen()).input);
    const guilds = await probe.platform.guilds();
    expectThat(
      guilds.some((guild) => guild.id === id),
      'the guild is not among them',
    );
    return undefined;
  }),
];
