import { runUntil } from '@taxeon/testing';
import { arg, command, plainText } from 'taxeon';
import { describe, expect, test } from 'vitest';
import { begun, lastPost, said, scene, settled, statusOf } from '../../../test/support/asking.js';
import type { Scene } from '../../../test/support/oddmere.js';

describe('a slash command', () => {
  const fine = command({
    name: 'fine',
    description: 'Charge a member',
    whenMissing: 'ask',
    args: { who: arg.member({ description: 'Who is charged' }), pence: arg.integer({ min: 1, max: 500 }) },
    confirm: ({ pence }) => `Charge ${pence} pence?`,
    run: ({ args }) => `${args.who.name} pays ${args.pence}.`,
  });
  const fills = (scene: Scene, by: string, answers: Record<string, string>, place = 'oddmere/counter') =>
    scene.platform.send(scene.platform.filled({ person: by, place, answers }));

  test('is asked by a form, which is read as its options would be', async () => {
    const here = await scene([fine]);
    expect(statusOf(await here.invokes('ines', 'fine', { pence: 0 }))).toBe('waiting');
    expect(here.platform.forms.at(-1)?.form).toMatchObject({
      asks: 'fields',
      fields: [
        { name: 'who', description: 'Who is charged', problem: '“who” is missing: a person here, by mention or name.' },
        { name: 'pence', problem: '“pence” takes a whole number from 1 to 500; “0” is too little.' },
      ],
    });
    // A line in the same place is chat.
    expect(statusOf(await here.types('ines', '50'))).toBe('ignored');
    expect(statusOf(await fills(here, 'ines', { who: 'Tobias', pence: 'x' }))).toBe('waiting');
    expect(statusOf(await fills(here, 'ines', { pence: '50' }))).toBe('waiting');
    expect(here.platform.forms.at(-1)?.form).toMatchObject({ asks: 'confirmation', question: 'Charge 50 pence?' });
    expect(said(await fills(here, 'ines', { confirm: 'yes' }))).toBe('Tobias pays 50.');
    expect(statusOf(await fills(here, 'ines', { confirm: 'yes' }))).toBe('answer.none');
  });

  test('is refused where the platform has no forms', async () => {
    const here = await scene([fine]);
    delete (here.platform as { form?: unknown }).form;
    expect(statusOf(await here.invokes('ines', 'fine'))).toBe('argument.missing');
    const { posts } = await here.invokes('ines', 'fine', { who: 'tobias', pence: 5 });
    expect(plainText(posts[0]?.notice ?? { body: '' })).toBe('I cannot ask you here, so nothing was done.');
  });

  test('is refused where the form is not shown', async () => {
    const here = await scene([fine]);
    (here.platform as { form?: unknown }).form = () => Promise.reject(new Error('no'));
    expect(statusOf(await here.invokes('ines', 'fine'))).toBe('argument.missing');
  });

  test('is refused where the platform never shows the form, and nothing is asked then', async () => {
    const here = await scene([fine]);
    (here.platform as { form?: unknown }).form = () => new Promise(() => undefined);
    const { outcome } = await runUntil(here.clock, here.invokes('ines', 'fine'));
    expect(outcome).toMatchObject({ status: 'invalid', code: 'argument.missing' });
  });

  test('may ask after its reply was held', async () => {
    const slow = command({
      name: 'slow',
      description: 'x',
      run: async (call) => {
        await new Promise<void>((done) => void here.clock.after(3000, done));
        await call.confirm('Sure?');
        return 'Done.';
      },
    });
    const here: Scene = await scene([slow]);
    const ends = here.invokes('ines', 'slow');
    here.clock.advance(3000);
    await settled();
    await fills(here, 'ines', { confirm: 'yes' });
    expect(statusOf(await ends)).toBe('completed');
    expect(here.platform.posts.at(-1)?.notice.body).toBe('Done.');
  });

  test('takes away its own question alone where its form is not shown', async () => {
    const ask = command({
      name: 'note',
      description: 'x',
      run: async (call) => `Noted ${await call.ask(arg.text(), 'What?')}.`,
    });
    const here = await scene([fine, ask]);
    let shown: (error: Error) => void = () => undefined;
    (here.platform as { form?: unknown }).form = () => new Promise((_, reject) => (shown = reject));
    const slash = here.invokes('ines', 'fine');
    await settled();
    const { ends } = await begun(here, 'ines', '!note');
    shown(new Error('no'));
    expect(statusOf(await slash)).toBe('argument.missing');
    await settled();
    here.clock.advance(60_000);
    expect(statusOf(await ends)).toBe('answer.none');
  });

  test('nobody fills in another person’s form', async () => {
    const here = await scene([fine]);
    await here.invokes('ines', 'fine');
    const stolen = { ...here.platform.filled({ person: 'ines', place: 'oddmere/counter', answers: { who: 'Wren' } }) };
    const { caller } = here.platform.typed({ person: 'tobias', place: 'oddmere/counter', text: '' });
    expect(statusOf(await here.platform.send({ ...stolen, caller }))).toBe('answer.none');
  });

  test('has its handler ask by a form, too', async () => {
    const ask = command({
      name: 'reserve',
      description: 'Reserve',
      run: async (call) => {
        const day = await call.ask(arg.choice(['friday', 'saturday']), 'For which day?');
        await call.confirm(`Reserve for ${day}?`);
        return `Reserved for ${day}.`;
      },
    });
    const here = await scene([ask]);
    const ends = here.invokes('ines', 'reserve');
    await settled();
    expect(here.platform.forms.at(-1)?.form).toMatchObject({
      asks: 'fields',
      fields: [{ name: 'answer', example: 'friday' }],
    });
    await fills(here, 'ines', { answer: 'someday' });
    await settled();
    expect(here.platform.forms.at(-1)?.form).toMatchObject({
      fields: [{ problem: expect.stringContaining('“someday”') }],
    });
    await fills(here, 'ines', { answer: 'friday' });
    await settled();
    expect(here.platform.forms.at(-1)?.form).toMatchObject({ asks: 'confirmation' });
    await fills(here, 'ines', { confirm: 'yes' });
    expect(statusOf(await ends)).toBe('completed');
    expect(lastPost(here)).toBe('Reserved for friday.');
  });
});
