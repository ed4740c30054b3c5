/** How an adapter comes and goes. */

import type { Outcome } from 'taxeon';
import type { Trial } from '../trial.js';
import { A_WHILE_MS, expectEqual, expectThat, leavesOut, type PlatformProbe, trialPause, useCommand } from './kit.js';

const chat: Outcome = { status: 'ignored', because: 'chat' };

export const lifecycleTrials: readonly Trial<PlatformProbe>[] = [
  {
    name: 'has a name that can begin a key',
    async run({ platform }) {
      expectThat(typeof platform.name === 'string' && /^[^/\s]+$/.test(platform.name), `“${platform.name}” cannot`);
      return undefined;
    },
  },
  {
    name: 'says once that it is connected, with what serves',
    async run({ platform }) {
      const told: unknown[] = [];
      let isRight = true;
      const served = await platform.serve({
        handle: async () => chat,
        async connected(connected, serving) {
          isRight &&= connected === platform;
          told.push(serving);
        },
      });
      try {
        expectEqual(told.length, 1, 'how often `connected` was called');
        expectThat(isRight, 'another platform is connected than the one that is served');
        expectEqual(told[0], served, 'what `connected` was given');
      } finally {
        await served.close();
      }
      return undefined;
    },
  },
  {
    name: 'says who the bot is once it is connected',
    async run(probe) {
      const { platform } = probe;
      if (leavesOut(probe, 'bot')) return 'it does not say who the bot is';
      const served = await platform.serve({ handle: async () => chat });
      try {
        const bot = await platform.directory.bot();
        expectThat(typeof bot?.id === 'string' && bot.id !== '', 'the directory does not say who the bot is');
      } finally {
        await served.close();
      }
      return undefined;
    },
  },
  {
    name: 'takes nothing more once it is closed',
    async run(probe) {
      let inputs = 0;
      const served = await probe.platform.serve({
        handle() {
          inputs += 1;
          return Promise.resolve(chat);
        },
      });
      await served.close();
      await useCommand(probe, 'label', 'into the void').catch(() => undefined);
      await trialPause(A_WHILE_MS);
      expectEqual(inputs, 0, 'how many inputs came');
      return undefined;
    },
  },
  {
    name: 'may be closed twice',
    async run({ platform }) {
      const served = await platform.serve({ handle: async () => chat });
      await served.close();
      await served.close();
      return undefined;
    },
  },
];
