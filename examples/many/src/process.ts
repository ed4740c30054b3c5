/**
 * One of several processes of the same bot: `process.js REDIS_URL`. The platform hands it lines, and it tells what came of
 * them. What all processes share is in the store; what Mallet lends is its own data, which this example leaves in each
 * process's memory.
 */
import { type DemoData, mallet } from '@oddmere/tool-library';
import { redisStore } from '@taxeon/redis';
import { standIn } from '@taxeon/testing';
import { createClient } from 'redis';
import { type Log, plainText } from 'taxeon';
import { borrowers, type Line, PEGS, pegOf, type Told } from './lines.js';

const [url = '', written = '{}'] = process.argv.slice(2);
const data = withCrowd(JSON.parse(written) as DemoData);
const tell = (told: Told | 'ready') => process.send?.(told);
const log: Log = {
  error: (fields, message) => process.stderr.write(`${message} ${String(Object(fields)['error'] ?? '')}\n`),
  warn: () => undefined,
};

const store = redisStore(createClient({ url }), { bot: 'mallet', log });
const layer = mallet(data, { store, log, repeats: 'store' });
const platform = standIn(data.world);
const serving = await platform.serve(layer);

process.on('message', async ({ id, person, place, text }: Line) => {
  const { outcome, posts } = await platform.send(platform.typed({ id, person, place, text }));
  tell({
    id,
    status: outcome.status,
    code: 'code' in outcome ? outcome.code : undefined,
    says: posts.map(({ notice }) => plainText(notice)),
  });
});

// Nobody hands it lines any more.
process.once('disconnect', () => process.exit());
process.once('SIGTERM', async () => {
  await layer.close({ within: '5s' });
  await serving.close();
  await store.close();
  process.exit();
});

tell('ready');

/** Everybody of the crowd may borrow at the workbench, where there are pegs enough. */
function withCrowd(demo: DemoData): DemoData {
  const { world, tools } = demo;
  const guilds = world.guilds.map((guild) =>
    guild.id === 'workbench'
      ? {
          ...guild,
          members: { ...guild.members, ...Object.fromEntries(borrowers.map(({ id }) => [id, ['borrower']])) },
        }
      : guild,
  );
  const pegs = borrowers.flatMap((_, n) =>
    Array.from({ length: PEGS }, (_, peg) => ({ name: pegOf(n, peg), kind: 'hand' as const })),
  );
  return {
    ...demo,
    world: { ...world, people: [...world.people, ...borrowers], guilds },
    tools: { ...tools, workbench: [...(tools['workbench'] ?? []), ...pegs] },
  };
}
