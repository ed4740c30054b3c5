/** Rounds of questions and answers, while platforms and stores fail. */

import { type Fault, injectFaults, randomFaults, runUntil } from '@taxeon/testing';
import { arg, type Call, command, createCommandLayer, memoryStore, type Outcome } from 'taxeon';
import { askInChat } from 'taxeon/asking';
import { PlatformError } from 'taxeon/platform';
import { oddmere, silentLog } from '../support/oddmere.js';
import { must, pick, type Round, tick } from './round.js';

const faults: readonly Fault[] = [
  { kind: 'hang' },
  { kind: 'hang', done: true },
  { kind: 'fail' },
  { kind: 'fail', at: 'once' },
  { kind: 'lose' },
  { kind: 'lose', error: new PlatformError('platform.unreachable', 'It was lost', { mayHaveArrived: true }) },
  { kind: 'delay', ms: 400 },
];

const people = ['wren', 'ines', 'tobias', 'odalys'];
const lines = [
  '!fine',
  '!fine Tobias',
  '!fine x',
  '!amnesty',
  '!reserve',
  '!plain',
  'Tobias',
  '50',
  'x',
  'stop',
  'yes',
  'no',
];

/** People call, answer, stop and talk at once, by lines and by forms. */
export function answers(inputs: number): Round {
  return async (random) => {
    const ran = new Map<string, number>();
    const outcomes: Outcome[] = [];
    /** Who has said yes, and has not had it used. */
    let yeses = 0;
    let forgiven = 0;
    const count = ({ inputId = '' }: Pick<Call, 'inputId'>) => void ran.set(inputId, (ran.get(inputId) ?? 0) + 1);
    const described = { description: 'Something' } as const;
    const commands = [
      command({ ...described, name: 'plain', run: (call) => count(call) }),
      command({
        ...described,
        name: 'fine',
        whenMissing: 'ask',
        args: { who: arg.member(), pence: arg.integer({ max: 500 }) },
        run: (call) => count(call),
      }),
      command({
        ...described,
        name: 'amnesty',
        confirm: 'Forget all loans?',
        run(call) {
          forgiven += 1;
          count(call);
        },
      }),
      command({
        ...described,
        name: 'reserve',
        timeout: '5s',
        async run(call) {
          const day = await call.ask(arg.integer(), 'For which day?');
          await call.confirm(`Day ${day}?`);
          count(call);
        },
      }),
    ];
    let store = memoryStore();
    const scene = await oddmere(({ clock }) => {
      store = memoryStore({ clock });
      const options = { clock, store, log: silentLog, asking: askInChat({ within: '30s' }), damping: 'off' } as const;
      return createCommandLayer({ commands, prefixes: ['!'], ...options });
    });
    let share = 0.12;
    const often = (call: string) => randomFaults({ random, share, faults })(call, []);
    injectFaults(
      scene.platform,
      (call) => (['deliver', 'form', 'hold'].includes(call) ? often(call) : undefined),
      scene.clock,
    );
    injectFaults(
      store,
      (call) => (['read', 'compareAndSet', 'publish'].includes(call) ? often(call) : undefined),
      scene.clock,
    );

    function does() {
      const person = pick(random, people);
      const place = 'oddmere/counter';
      const dice = random();
      if (dice < 0.15) return scene.invokes(person, pick(random, ['fine', 'clear', 'reserve']));
      const hasForm = scene.platform.forms.some(({ to }) => to.caller.id === person);
      if (dice < 0.3 && hasForm) {
        const filled = pick(random, [
          { who: 'Tobias', pence: '5' },
          { pence: 'x' },
          { confirm: 'yes' },
          { confirm: 'no' },
          { answer: '3' },
        ]);
        if ('confirm' in filled && filled.confirm === 'yes') yeses += 1;
        return scene.platform.send(scene.platform.filled({ person, place, answers: filled as Record<string, string> }));
      }
      const line = pick(random, lines);
      if (line === 'yes') yeses += 1;
      return scene.types(person, line);
    }

    for (let done = 0; done < inputs; done += 6) {
      const some = Array.from({ length: 6 }, does);
      // Handlers that ask end when they are answered, or when their time is over.
      for (const { outcome, input } of await runUntil(scene.clock, Promise.all(some))) {
        outcomes.push(outcome);
        must((ran.get(input.id ?? '') ?? 0) <= 1, 'a handler ran twice for', input.id);
        must(forgiven <= yeses, 'a command ran without its yes', { forgiven, yeses });
      }
      if (random() < 0.3) scene.clock.advance(Math.floor(random() * 40_000));
      await tick();
    }
    // Once all is well again and time has passed, nothing is asked any more.
    share = 0;
    for (let minute = 0; minute < 5; minute++) {
      scene.clock.advance(60_000);
      await tick();
    }
    must((await store.entries('asking/')).length === 0, 'questions are left', await store.entries('asking/'));
    for (const person of people) {
      const { outcome } = await runUntil(scene.clock, scene.types(person, '50'));
      must(outcome.status === 'ignored', `${person} is still asked`, outcome.status);
    }
    const by = (status: string) => outcomes.filter((outcome) => outcome.status === status).length;
    return `${inputs} inputs: ${by('waiting')} waiting, ${by('completed')} completed, ${by('refused')} refused; ${forgiven} of ${yeses} yeses used`;
  };
}
