/** The form in which the bot asks, where a slash command lacks something. */
import { type FormEvent, useState } from 'react';
import { Button } from 'react-aria-components';
import type { Form } from 'taxeon/platform';
import { messageOf, type Workshop } from './workshop.js';

interface AskedFormProps {
  readonly form: Form;
  readonly workshop: Workshop;
}

export function AskedForm({ form, workshop }: AskedFormProps) {
  const [answers, setAnswers] = useState<Readonly<Record<string, string>>>({});

  async function fill(given: Readonly<Record<string, string>>): Promise<void> {
    try {
      await workshop.do({ person: workshop.speaker, place: workshop.place, fills: given });
    } catch (error) {
      workshop.set({ problem: messageOf(error) });
    }
  }

  function send(event: FormEvent): void {
    event.preventDefault();
    void fill(answers);
  }

  if (form.asks === 'confirmation') {
    return (
      <fieldset className="asked">
        <legend>Mallet asks</legend>
        <p>{form.question}</p>
        <Button onPress={() => void fill({ confirm: 'yes' })}>Yes</Button>
        <Button onPress={() => void fill({ confirm: 'no' })}>No</Button>
      </fieldset>
    );
  }
  return (
    <form onSubmit={send}>
      <fieldset className="asked">
        <legend>Mallet asks</legend>
        {form.question === undefined ? null : <p>{form.question}</p>}
        {form.fields.map(({ name, description, problem, example }) => (
          <label key={name}>
            {description ?? name}
            <small>{problem}</small>
            <input
              value={answers[name] ?? ''}
              placeholder={example}
              onChange={({ target }) => setAnswers({ ...answers, [name]: target.value })}
            />
          </label>
        ))}
        <Button type="submit">Answer</Button>
      </fieldset>
    </form>
  );
}
