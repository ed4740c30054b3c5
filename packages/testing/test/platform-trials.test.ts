import { platformTrials } from '@taxeon/testing/trials';
import { describe, expect, test } from 'vitest';
import { type Defect, defects, sampleChat } from './support/sample-chat.js';

describe('an adapter that keeps the contract passes, whatever it claims', () => {
  test.concurrent.each(platformTrials.map((trial) => [trial.name, trial] as const))('%s', async (_, trial) => {
    expect(await trial.run(sampleChat())).toBeUndefined();
  });
});

describe('a planted defect is found by the trial of what it breaks', () => {
  const all = Object.entries(defects) as [Defect, string][];

  test.concurrent.each(all)('%s: %s', async (defect, name) => {
    const trial = platformTrials.find((one) => one.name === name);
    if (trial === undefined) throw new Error(`there is no trial “${name}”`);
    await expect(trial.run(sampleChat(defect))).rejects.toThrow();
  });

  test('each trial has one', () => {
    const found = new Set<string>(Object.values(defects));
    expect(platformTrials.filter(({ name }) => !found.has(name)).map(({ name }) => name)).toEqual([]);
    expect(all.length).toBeGreaterThanOrEqual(25);
  });
});

test('what is claimed and cannot be seen is no pass', async () => {
  for (const name of ['shown', 'heardAlone', 'redeliver', 'stands', 'invoke', 'addressing'] as const) {
    const outcomes = await Promise.all(
      platformTrials.map(async (trial) => {
        const { [name]: _, ...probe } = sampleChat();
        return trial.run(probe as never).then(
          (skipped) => skipped ?? 'held',
          (error: Error) => error.message,
        );
      }),
    );
    expect(outcomes.some((one) => one.includes(`give the probe \`${name}\``))).toBe(true);
  }
});
