/** What should be registered in each scope, what is, the difference, and carrying it out. */
import { useEffect, useState } from 'react';
import { Button, Input, Label, TextField } from 'react-aria-components';
import { durationInWords } from 'taxeon';
import { type DifferenceEntry, type RegistrationStep, type ScopeDifference, scopeName } from 'taxeon/registration';
import type { Workshop } from './workshop.js';

export function RegistrationPanel({ workshop }: { readonly workshop: Workshop }) {
  const { difference, isRegistering, registrationSteps } = workshop;
  const [description, setDescription] = useState('Borrow a tool');
  useEffect(() => {
    if (workshop.difference === undefined) void workshop.compare();
  }, [workshop]);
  if (difference === undefined) return <p className="empty">Comparing …</p>;
  const open = difference.scopes
    .flatMap(({ entries }) => entries)
    .filter(({ state }) => ['lacking', 'differs', 'leftOver'].includes(state)).length;
  return (
    <>
      <h2>{open === 0 ? 'The platform holds what is declared' : `The platform differs in ${open}`}</h2>
      <div className="buttons">
        <Button isDisabled={isRegistering} onPress={() => void workshop.register('staging', false)}>
          Register for staging
        </Button>
        <Button isDisabled={isRegistering} onPress={() => void workshop.register(undefined, false)}>
          Register everywhere
        </Button>
      </div>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          workshop.redescribe('borrow', description);
        }}
      >
        <TextField value={description} onChange={setDescription}>
          <Label>Description of borrow</Label>
          <Input />
        </TextField>
        <Button type="submit">Change</Button>
      </form>
      {difference.problems.map(({ scope, command, field, problem }) => (
        <p key={`${scope} ${command} ${field}`} role="alert" className="problem">
          {command}, {field.replace('args.', '')}: {problem}
        </p>
      ))}
      {isRegistering ? (
        <p aria-live="polite">{progressOf(registrationSteps)} The platform is slow: let time pass.</p>
      ) : null}
      {difference.scopes.map((scope) => (
        <Scope key={scopeName(scope.scope)} difference={scope} workshop={workshop} />
      ))}
    </>
  );
}

function progressOf(steps: readonly RegistrationStep[]): string {
  const last = steps.at(-1);
  if (last === undefined) return 'Beginning.';
  return last.done === 'waiting'
    ? `The platform asks to wait ${last.note}.`
    : `${last.scope}: ${last.name} is ${done[last.done]}.`;
}

const done: Readonly<Record<Exclude<RegistrationStep['done'], 'waiting'>, string>> = {
  created: 'registered',
  updated: 'as declared now',
  removed: 'removed',
  kept: 'kept',
};

/** What the platform has, compared with what is declared. */
const words: Readonly<Record<DifferenceEntry['state'], string>> = {
  lacking: 'lacking',
  differs: 'differs',
  leftOver: 'left over',
  same: 'same',
  foreign: 'foreign',
};

function Scope({
  difference: { scope, delayMs, entries },
  workshop,
}: {
  readonly difference: ScopeDifference;
  readonly workshop: Workshop;
}) {
  const name = scopeName(scope);
  const held = workshop.held[name] ?? [];
  const now = workshop.clock.now();
  return (
    <section>
      <h3>
        {name} <small>{delayMs === 0 ? 'seen at once' : `seen after about ${durationInWords(delayMs)}`}</small>
      </h3>
      <ul className="difference">
        {entries.map((entry) => {
          const visibleAt = held.find(({ form }) => form.name === entry.name)?.visibleAt;
          return (
            <li key={entry.name} className={entry.state}>
              <em>{words[entry.state]}</em>
              <b>{entry.name}</b>
              <Detail entry={entry} />
              <small>
                {visibleAt === undefined
                  ? ''
                  : visibleAt > now
                    ? `arrives in ${durationInWords(visibleAt - now)}`
                    : 'seen by people'}
              </small>
            </li>
          );
        })}
      </ul>
    </section>
  );
}

function Detail({ entry }: { readonly entry: DifferenceEntry }) {
  switch (entry.state) {
    case 'lacking':
      return <span>{entry.form.description}</span>;
    case 'differs':
      return (
        <table>
          <thead>
            <tr>
              <th scope="col">field</th>
              <th scope="col">registered</th>
              <th scope="col">declared</th>
            </tr>
          </thead>
          <tbody>
            {entry.fields.map(({ field, registered, declared }) => (
              <tr key={field}>
                <th scope="row">{field}</th>
                <td>{JSON.stringify(registered) ?? 'nothing'}</td>
                <td>{JSON.stringify(declared) ?? 'nothing'}</td>
              </tr>
            ))}
          </tbody>
        </table>
      );
    case 'leftOver':
      return <span>not declared any more</span>;
    case 'foreign':
      return <span>registered by {entry.held.by}, and left alone</span>;
    case 'same':
      return <span />;
  }
}
