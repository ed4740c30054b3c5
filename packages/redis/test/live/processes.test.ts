/** Processes that hammer on one Redis server, or on a cluster, while things go wrong. */
import { afterEach, beforeEach, describe, expect, test } from 'vitest';
import { isMissing, script, start, until } from '../../../../test/support/programs.js';
import { type RedisCluster, type RedisServer, startCluster, startRedis } from '../support/redis.js';

const [uses, windowMs] = [25, 200];

interface Report {
  readonly granted: number;
  readonly refused: number;
  readonly beside: number;
  readonly failures: readonly string[];
}

/** Four processes, the first of which is killed; what they were granted, by the server's time. */
async function hammer(store: string, forMs: number, meanwhile: () => Promise<void>) {
  const args = [script('hammer.js'), store, String(Date.now() + forMs), String(uses), String(windowMs)];
  const processes = Array.from({ length: 4 }, () => start(process.execPath, args));
  const [victim] = processes;
  await until(() => victim?.out().includes('grant') === true, 'the first process was granted something');
  await meanwhile();
  victim?.child.kill('SIGKILL');
  const finished = await Promise.all(processes.map((one) => one.finished));
  expect(finished.slice(1).map(({ err }) => err)).toEqual(['', '', '']);
  const grants = finished
    .flatMap(({ out }) => [...out.matchAll(/grant ([\d.]+)\n/g)].map(([, at]) => Math.floor(Number(at))))
    .sort((a, b) => a - b);
  const reports = finished.slice(1).map(({ out }): Report => JSON.parse(/done (.*)\n/.exec(out)?.[1] ?? '{}'));
  return { grants, reports };
}

/** Moments at which more were granted in the window before than it allows. */
function tooMany(grants: readonly number[], allowed = uses): readonly number[] {
  return grants.filter((at, index) => at - (grants[index - allowed] ?? Number.NEGATIVE_INFINITY) < windowMs);
}

const pause = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms));

describe.skipIf(isMissing('redis-server'))('four processes', () => {
  describe('on one server that keeps what it has', () => {
    let server: RedisServer;
    beforeEach(async () => {
      server = await startRedis(['--appendonly', 'yes', '--appendfsync', 'always']);
    });
    afterEach(() => server.stop());

    // Where the machine's disk is that busy, the server answers too late for as long as this lasts.
    const options = { retry: 2, timeout: 120_000 };
    test(
      'are granted no more than the window allows, through a kill and a restart, and nothing is taken by what was refused',
      options,
      async () => {
        let backAt = 0;
        const { grants, reports } = await hammer(`redis:${server.port}`, 10_000, async () => {
          await pause(700);
          await server.kill();
          await pause(300);
          await server.begin();
          await pause(500);
          // Frozen, and going on with what has waited.
          server.pause();
          await pause(600);
          server.goOn();
          backAt = Date.now();
        });
        expect(tooMany(grants)).toEqual([]);
        for (const { granted, beside, failures } of reports) expect([beside, failures]).toEqual([granted, failures]);
        expect(reports.reduce((sum, { refused }) => sum + refused, 0)).toBeGreaterThan(0);
        const since = grants.filter((at) => at > backAt);
        expect([
          since.length > uses,
          reports.map(({ refused, failures }) => [refused, failures.length, ...failures.slice(-3)]),
        ]).toEqual([true, expect.anything()]);
        console.log(
          `${grants.length} grants, ${reports.map(({ failures }) => failures.length).join(', ')} not answered`,
        );
      },
    );
  });

  const ends: readonly (readonly [what: string, end: (primary: RedisServer) => unknown])[] = [
    ['dies', (primary) => primary.kill()],
    // The others hear nothing of it for so long that another takes its place.
    [
      'is cut off for a while',
      (primary) => {
        primary.pause();
        setTimeout(primary.goOn, 4500);
      },
    ],
  ];
  describe.each(ends)('on a cluster of which a primary %s', (_, end) => {
    let cluster: RedisCluster;
    beforeEach(async () => {
      cluster = await startCluster();
    });
    afterEach(() => cluster.stop());

    // Its servers take each other for dead after a second: where the machine is that busy, they do not come together again.
    const options = { retry: 2, timeout: 120_000 };
    test(
      'are granted no more than the window allows, also while a slot moves, but for what it had not handed on',
      options,
      async () => {
        let diedAt = 0;
        const { grants, reports } = await hammer(`cluster:${cluster.ports.join(',')}`, 16_000, async () => {
          await pause(500);
          await cluster.moveSlotOf('mallet:uses:hammered:all');
          await pause(500);
          const primary = await cluster.primaryOf('mallet:uses:hammered:all');
          diedAt = Date.now();
          await end(primary);
        });
        const wrong = tooMany(grants);
        // What the primary had not handed on is granted once more: within the window before its death.
        expect(wrong.filter((at) => at < diedAt || at > diedAt + 5000 + windowMs)).toEqual([]);
        expect(tooMany(grants, 2 * uses)).toEqual([]);
        for (const { granted, beside } of reports) expect(beside).toBe(granted);
        const failures = reports.map((one) => one.failures.slice(-3));
        expect([(grants.at(-1) ?? 0) > diedAt + 3000, failures]).toEqual([true, failures]);
        console.log(
          `${grants.length} grants, ${wrong.length} beyond the window at the fail-over, ${reports.map(({ failures }) => failures.length).join(', ')} not answered`,
        );
      },
    );
  });
});
