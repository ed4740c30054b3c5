/** The trials of the platform contract on the IRC adapter, from the other side: two people on a real server. */
import { irc } from '@taxeon/irc';
import { type PlatformProbe, platformTrials } from '@taxeon/testing/trials';
import { afterAll, beforeAll, describe, test } from 'vitest';
import { silentLog } from '../../../../test/support/oddmere.js';
import { until } from '../../../../test/support/programs.js';
import { type IrcPerson, joinAs } from './ngircd.js';

export function describeIrcTrials(server: () => { readonly port: number; readonly peoplePort?: number }): void {
  describe('the adapter keeps the platform contract', () => {
    let wren: IrcPerson;
    let ines: IrcPerson;
    beforeAll(async () => {
      const { port, peoplePort = port } = server();
      [wren, ines] = await Promise.all([joinAs('Wren', peoplePort, '#trials'), joinAs('Ines', peoplePort, '#trials')]);
    });
    afterAll(() => Promise.all([wren.leave(), ines.leave()]));

    for (const [index, trial] of platformTrials.entries()) {
      test(trial.name, async (context) => {
        const channel = `#trial${index}`;
        for (const person of [wren, ines]) {
          person.raw('JOIN', channel);
          await until(
            () => person.told().some((line) => line.includes(` 366 ${person.nick} ${channel} `)),
            'they are in',
          );
        }
        for (const person of [wren, ines]) person.forget();
        const { platform, ...probe } = probeOf(server().port, channel, wren, ines);
        const skipped = await trial.run({ platform, ...probe }).finally(() => platform.close());
        if (skipped !== undefined) context.skip(skipped);
      });
    }
  });
}

function probeOf(port: number, channel: string, wren: IrcPerson, ines: IrcPerson) {
  /** Without whom it is for, and without what makes a heading bold. */
  const bare = (line: string) => line.replace(/^(?:Wren|Ines): |^· |\x02/g, '');
  const platform = irc({
    host: '127.0.0.1',
    port,
    nick: 'Mallet',
    channels: [channel],
    identity: 'user@host',
    pace: '5 in 500ms',
    log: silentLog,
  });
  return {
    platform,
    somebody: { name: 'Wren' },
    type: async (line) => wren.whisper(channel, line),
    heard: async () => bare(await ines.heard('Mallet', channel)),
    other: { name: 'Ines', type: async (line) => ines.whisper(channel, line) },
    whisper: async (line) => wren.whisper('Mallet', line),
    heardAlone: async () => bare(await wren.heard('Mallet', 'Wren')),
    addressing: 'Mallet: ',
  } satisfies PlatformProbe;
}
