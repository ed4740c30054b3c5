/** Where one types: a line with completion, or a slash command's form. */
import { type FormEvent, useEffect, useRef, useState } from 'react';
import { Button, Radio, RadioGroup } from 'react-aria-components';
import type { Explanation, Suggestion } from 'taxeon/queries';
import { SuggestField } from './SuggestField.js';
import { messageOf, type Workshop } from './workshop.js';

export function Composer({ workshop }: { readonly workshop: Workshop }) {
  const [surface, setSurface] = useState('text');
  return (
    <div className="composer">
      <RadioGroup className="choices" aria-label="By" orientation="horizontal" value={surface} onChange={setSurface}>
        <Radio value="text">Text</Radio>
        <Radio value="slash">Slash</Radio>
      </RadioGroup>
      {surface === 'text' ? <TextLine workshop={workshop} /> : <SlashForm workshop={workshop} />}
    </div>
  );
}

function TextLine({ workshop }: { readonly workshop: Workshop }) {
  const [text, setText] = useState('');
  const [suggestions, setSuggestions] = useState<readonly Suggestion[]>([]);
  const [explanation, setExplanation] = useState<Explanation | undefined>();
  const latest = useRef(0);
  const { speaker, place } = workshop;

  /** One call of each into the core for a keystroke; an answer that comes late is dropped. */
  async function look(next: string, cursor: number): Promise<void> {
    latest.current += 1;
    const mine = latest.current;
    setText(next);
    const input = workshop.typed(next);
    const [found, explained] = await Promise.all([workshop.complete(input, cursor), workshop.explain(input)]);
    if (mine !== latest.current) return;
    setSuggestions(found);
    setExplanation(next === '' ? undefined : explained);
  }

  // Another person may run other commands elsewhere.
  // biome-ignore lint/correctness/useExhaustiveDependencies: only when they change
  useEffect(() => {
    if (text !== '') void look(text, text.length);
  }, [speaker, place]);

  async function send(event: FormEvent): Promise<void> {
    event.preventDefault();
    if (text === '') return;
    const line = text;
    latest.current += 1;
    setText('');
    setSuggestions([]);
    setExplanation(undefined);
    try {
      await workshop.do({ person: speaker, place: place, types: line });
    } catch (error) {
      workshop.set({ problem: messageOf(error) });
    }
  }

  return (
    <form onSubmit={(event) => void send(event)}>
      <SuggestField
        label="Line"
        value={text}
        suggestions={suggestions}
        onChange={(next, cursor) => void look(next, cursor)}
        onTake={({ text: put, start, end, kind }) => {
          const next = `${text.slice(0, start)}${put}${kind === 'value' && text.slice(end) !== '' ? '' : ' '}${text.slice(end)}`;
          void look(next, next.length);
        }}
      />
      <Button type="submit">Send</Button>
      <p className="preview" aria-live="polite">
        {explanation === undefined ? 'What would happen stands here while you type.' : previewOf(explanation)}
      </p>
    </form>
  );
}

function previewOf({ status, command, code, stoppedAt, message }: Explanation): string {
  if (status === 'runs') return `${command} would run.`;
  if (status === 'ignored') return 'Ordinary chat: nobody answers.';
  if (status === 'waiting') return `Mallet would ask: ${message ?? 'in a form'}`;
  return `${status} at ${stoppedAt}, ${code}: ${message ?? 'nothing is said'}`;
}

function SlashForm({ workshop }: { readonly workshop: Workshop }) {
  const commands = workshop.manifest.commands.flatMap((entry) =>
    entry.commands === undefined
      ? [{ path: entry.name, schema: entry.arguments }]
      : entry.commands.map((inner) => ({ path: `${entry.name} ${inner.name}`, schema: inner.arguments })),
  );
  const [path, setPath] = useState('borrow');
  const [values, setValues] = useState<Readonly<Record<string, string>>>({});
  const [suggestions, setSuggestions] = useState<Readonly<Record<string, readonly Suggestion[]>>>({});
  const { schema } = commands.find((one) => one.path === path) ?? {};

  async function look(name: string, value: string): Promise<void> {
    const next = { ...values, [name]: value };
    setValues(next);
    const found = await workshop.complete(workshop.invoked(path.split(' '), given(next)), name);
    setSuggestions({ [name]: found });
  }

  async function send(event: FormEvent): Promise<void> {
    event.preventDefault();
    setValues({});
    setSuggestions({});
    try {
      await workshop.do({ person: workshop.speaker, place: workshop.place, invokes: path, options: given(values) });
    } catch (error) {
      workshop.set({ problem: messageOf(error) });
    }
  }

  return (
    <form onSubmit={(event) => void send(event)}>
      <label>
        Command
        <select
          value={path}
          onChange={({ target }) => {
            setPath(target.value);
            setValues({});
          }}
        >
          {commands.map((one) => (
            <option key={one.path} value={one.path}>{`/${one.path}`}</option>
          ))}
        </select>
      </label>
      {(schema?.['x-order'] ?? []).map((name) => (
        <SuggestField
          key={`${path} ${name}`}
          label={`${name}${schema?.required.includes(name) === true ? '' : ' (optional)'}`}
          value={values[name] ?? ''}
          suggestions={suggestions[name] ?? []}
          onChange={(value) => void look(name, value)}
          onTake={({ text }) => {
            setValues({ ...values, [name]: text });
            setSuggestions({});
          }}
        />
      ))}
      <Button type="submit">Invoke</Button>
    </form>
  );
}

/** What was left empty is not given. */
function given(values: Readonly<Record<string, string>>): Record<string, string> {
  return Object.fromEntries(Object.entries(values).filter(([, value]) => value !== ''));
}
