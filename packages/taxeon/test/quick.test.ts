import { expect, test } from 'vitest';
import { arg, command, createCommandLayer } from 'taxeon';
test('quick', async () => {
  const fine = command({ name: 'fine', aliases: ['charge'], description: 'x', args: { pence: arg.integer({ min: 1, max: 500 }), keep: arg.duration({ default: '3d' }), note: arg.tail({ optional: true }) }, cooldowns: { user: '1 in 1m' }, run: ({ args }) => `${args.pence} ${args.keep} ${args.note}` });
  const layer = createCommandLayer({ commands: [fine], prefixes: ['!'] });
  const say = (text: string) => layer.handle({ surface: 'text', text, caller: { kind: 'user', id: 'u', name: 'U' }, place: { kind: 'direct', channel: { id: 'c', name: 'c' } }, at: 0 });
  for (const t of ['!fine 10abc', '!charge 5 2 days hello  "world', 'x', '!fine 5', '!fien', '!fine', '!fine "x'])
    console.log(t, JSON.stringify(await say(t)));
  console.log(JSON.stringify(await layer.explain({ surface: 'text', text: '!charge 5 hello', caller: { kind: 'user', id: 'u', name: 'U' }, place: { kind: 'direct', channel: { id: 'c', name: 'c' } }, at: 0 }), null, 1));
});
