/** The conformance suite of the registrar contract: what every place for commands must do, as named trials. */

import { scopeName } from 'taxeon/registration';
import type { Trial } from '../trial.js';
import {
  expectCode,
  expectConflict,
  expectSameInOrder,
  fullForm,
  groupForm,
  heldAs,
  heldNames,
  me,
  type RegistrarProbe,
  registrarTrial,
  trialForm,
} from './kit.js';

export type { OpenedRegistrar, RegistrarProbe } from './kit.js';

/** As many as do not fit on one page of most systems. */
const MANY = 45;
const LONGEST_NAME = 32;

/**
 * The trials of a registrar, for any test runner. A trial of what the place does not have says why it is skipped.
 *
 * @example
 * import { test } from 'vitest';
 * import { openPlace } from '../../../taxeon/src/testing/registrar-trials/place.js';
 *
 * for (const trial of registrarTrials) test(trial.name, () => trial.run({ open: openPlace }));
 */
export const registrarTrials: readonly Trial<RegistrarProbe>[] = [
  registrarTrial('has a name that can begin a key, and says how long people wait', async ({ registrar }) => {
    const { name, delayMs } = registrar;
    if (typeof name !== 'string' || !/^[^/\s]+$/.test(name)) throw new Error(`“${name}” cannot begin a key`);
    for (const [where, ms] of Object.entries({ everywhere: delayMs.everywhere, guild: delayMs.guild }))
      if (!(Number.isFinite(ms) && ms >= 0)) throw new Error(`the delay ${where} is ${ms}`);
  }),
  registrarTrial('holds nothing that nobody registered', async ({ registrar, guild }) => {
    expectSameInOrder(await registrar.read('everywhere'), [], 'what is held everywhere');
    expectSameInOrder(await registrar.read({ guild }), [], 'what is held in the guild');
  }),
  registrarTrial('holds a command with every field as it was registered', async ({ registrar, guild }) => {
    for (const form of [fullForm, groupForm]) {
      await registrar.create({ guild }, form, me);
      const held = await heldAs(registrar, { guild }, form.name);
      expectSameInOrder(held.form, form, `the form of ${form.name}`);
      expectSameInOrder(held.by, me, 'who registered it');
      if (!Number.isFinite(held.visibleAt)) throw new Error('it does not say when people see it');
    }
  }),
  registrarTrial('keeps what is everywhere apart from what is in a guild', async ({ registrar, guild }) => {
    await registrar.create('everywhere', trialForm('lamp'), me);
    await registrar.create({ guild }, trialForm('shelf'), me);
    await registrar.create({ guild }, trialForm('lamp', 'Another'), me);
    expectSameInOrder(await heldNames(registrar, 'everywhere'), 'lamp', 'what is held everywhere');
    expectSameInOrder(await heldNames(registrar, { guild }), 'lamp, shelf', 'what is held in the guild');
    await registrar.remove({ guild }, await heldAs(registrar, { guild }, 'lamp'));
    expectSameInOrder(await heldNames(registrar, 'everywhere'), 'lamp', 'what is held everywhere');
  }),
  registrarTrial('says who registered what', async ({ registrar, guild }) => {
    await registrar.create({ guild }, trialForm('lamp'), me);
    await registrar.create({ guild }, trialForm('shelf'), 'somebody else');
    expectSameInOrder((await heldAs(registrar, { guild }, 'lamp')).by, me, 'who registered lamp');
    expectSameInOrder((await heldAs(registrar, { guild }, 'shelf')).by, 'somebody else', 'who registered shelf');
  }),
  registrarTrial(
    'keeps a command’s id when it changes, also its name, and gives it another version',
    async ({ registrar, guild }) => {
      await registrar.create({ guild }, trialForm('lamp'), me);
      const first = await heldAs(registrar, { guild }, 'lamp');
      await registrar.update({ guild }, first, trialForm('lantern', 'Light it', 'lamp'));
      const second = await heldAs(registrar, { guild }, 'lantern');
      expectSameInOrder(second.form, trialForm('lantern', 'Light it', 'lamp'), 'the form');
      expectSameInOrder(second.id, first.id, 'the id');
      if (second.version === first.version) throw new Error('the version stayed');
      expectSameInOrder(await heldNames(registrar, { guild }), 'lantern', 'what is held');
    },
  ),
  registrarTrial('gives each command an id of its own', async ({ registrar, guild }) => {
    for (const name of ['lamp', 'shelf', 'fine']) await registrar.create({ guild }, trialForm(name), me);
    const ids = (await registrar.read({ guild })).map(({ id }) => id);
    expectSameInOrder(new Set(ids).size, 3, 'how many ids three commands have');
  }),
  registrarTrial('takes a command away, and no other', async ({ registrar, guild }) => {
    for (const name of ['lamp', 'shelf', 'fine']) await registrar.create({ guild }, trialForm(name), me);
    await registrar.remove({ guild }, await heldAs(registrar, { guild }, 'shelf'));
    expectSameInOrder(await heldNames(registrar, { guild }), 'fine, lamp', 'what is held');
  }),
  registrarTrial('takes no second command of a name', async ({ registrar, guild }) => {
    await registrar.create({ guild }, trialForm('lamp'), me);
    await expectConflict('registering lamp twice', () => registrar.create({ guild }, trialForm('lamp', 'Another'), me));
    expectSameInOrder((await heldAs(registrar, { guild }, 'lamp')).form.description, 'Does lamp', 'the description');
  }),
  registrarTrial('overwrites nothing that another has changed meanwhile', async ({ registrar, guild }) => {
    await registrar.create({ guild }, trialForm('lamp'), me);
    const seen = await heldAs(registrar, { guild }, 'lamp');
    await registrar.update({ guild }, seen, trialForm('lamp', 'By another'));
    await expectConflict('changing what another has changed', () =>
      registrar.update({ guild }, seen, trialForm('lamp', 'By me')),
    );
    expectSameInOrder((await heldAs(registrar, { guild }, 'lamp')).form.description, 'By another', 'the description');
  }),
  registrarTrial('takes nothing away that another has changed meanwhile', async ({ registrar, guild }) => {
    await registrar.create({ guild }, trialForm('lamp'), me);
    const seen = await heldAs(registrar, { guild }, 'lamp');
    await registrar.update({ guild }, seen, trialForm('lamp', 'By another'));
    await expectConflict('taking away what another has changed', () => registrar.remove({ guild }, seen));
    expectSameInOrder(await heldNames(registrar, { guild }), 'lamp', 'what is held');
  }),
  registrarTrial('tells where a command is gone that is to be changed or taken away', async ({ registrar, guild }) => {
    await registrar.create({ guild }, trialForm('lamp'), me);
    const seen = await heldAs(registrar, { guild }, 'lamp');
    await registrar.remove({ guild }, seen);
    await expectConflict('changing what is gone', () => registrar.update({ guild }, seen, trialForm('lamp', 'By me')));
    await expectConflict('taking away what is gone', () => registrar.remove({ guild }, seen));
    expectSameInOrder(await registrar.read({ guild }), [], 'what is held');
  }),
  registrarTrial('reads all that is held, however many', async ({ registrar, guild }) => {
    const count = Math.min(registrar.limits.commandsPerScope ?? MANY, MANY);
    const names = Array.from({ length: count }, (_, n) => `tool-${String(n).padStart(2, '0')}`);
    for (const name of names) await registrar.create({ guild }, trialForm(name), me);
    expectSameInOrder(await heldNames(registrar, { guild }), names.join(', '), 'what is held');
  }),
  registrarTrial('takes a name and a description as long as it claims', async ({ registrar, guild }) => {
    const { nameLength = LONGEST_NAME, descriptionLength = 100 } = registrar.limits;
    const form = trialForm('x'.repeat(nameLength), 'y'.repeat(descriptionLength), 'long');
    await registrar.create({ guild }, form, me);
    expectSameInOrder((await heldAs(registrar, { guild }, form.name)).form, form, 'the form');
  }),
  registrarTrial('tells where there is no such guild', async ({ registrar }) => {
    const nowhere = { guild: 'no-guild-at-all' };
    await expectCode('reading a guild that is not there', 'platform.gone', () => registrar.read(nowhere));
    await expectCode('registering there', 'platform.gone', () => registrar.create(nowhere, trialForm('lamp'), me));
  }),
  registrarTrial('tells who may not register', async ({ registrar, guild, powerless }) => {
    if (powerless === undefined) return 'the probe has nobody who may not';
    await expectCode('registering without a right to', 'platform.forbidden', () =>
      powerless.create({ guild }, trialForm('lamp'), me),
    );
    expectSameInOrder(await registrar.read({ guild }), [], 'what is held');
    return undefined;
  }),
  registrarTrial('asks to wait, and says how long, and does nothing meanwhile', async ({ registrar, guild, hurry }) => {
    if (hurry === undefined) return 'the probe cannot hurry it';
    await hurry();
    const error = await expectCode('one change too many', 'platform.slowed', () =>
      registrar.create({ guild }, trialForm('lamp'), me),
    );
    if (!(error.retryAfterMs !== undefined && error.retryAfterMs > 0)) throw new Error('it does not say how long');
    expectSameInOrder(await registrar.read({ guild }), [], 'what is held');
    return undefined;
  }),
  registrarTrial('tells in which scopes something is registered', async ({ registrar, guild }) => {
    const { scopes } = registrar;
    if (scopes === undefined) return 'it does not tell its scopes';
    const told = async (by: string) => (await scopes(by)).map(scopeName).sort().join(', ');
    expectSameInOrder(await told(me), '', 'the scopes before');
    await registrar.create({ guild }, trialForm('lamp'), me);
    expectSameInOrder(await told(me), `guild ${guild}`, 'the scopes with one command');
    await registrar.create('everywhere', trialForm('shelf'), me);
    expectSameInOrder(await told(me), ['everywhere', `guild ${guild}`].join(', '), 'the scopes with two');
    expectSameInOrder(await told('somebody else'), '', 'the scopes of somebody else');
    return undefined;
  }),
];
