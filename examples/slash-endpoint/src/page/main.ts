/** In place of a chat: people use slash commands by forms, the page signs and posts them, and shows what comes back. */
import { writeSlashLine } from '@taxeon/testing';
import '../../../playground/src/style.css';
import { element } from '../../../figures/src/element.js';
import type { Message } from '../message.js';
import { type About, personOf, type Usable, usable } from './about.js';
import { type FilledForm, formFor } from './form.js';
import './page.css';
import { makeSigner } from './signing.js';

const about = (await (await fetch('chat/about')).json()) as About;
const commands = usable(about.commands);
const people = about.world.people.filter(({ bot }) => bot !== true);
const [guild] = about.world.guilds;
const signer = await makeSigner();

const person = choice(
  'Who',
  people.map(({ id, name }) => [id, name]),
);
const command = choice(
  'Command',
  commands.map(({ path }) => [path, `/${path}`]),
);
const way = choice('Filled in as', [
  ['options', 'a form'],
  ['text', 'text behind the command'],
]);
const description = element('p', { class: 'reason' });
const fields = element('div', { class: 'fields' });
const posted = element('pre', { tabindex: '0', 'aria-label': 'The last post' }, 'Nothing was posted yet.');
const room = element('ol', { class: 'lines', 'aria-live': 'polite', 'aria-label': 'What is said in the room' });
const entries: { readonly node: HTMLElement; readonly only: string | undefined }[] = [];
let filled: () => Given = () => ({});
let calls = 0;

/** What a command is given: by a form, or as text. */
interface Given {
  readonly text?: string;
  readonly options?: Readonly<Record<string, unknown>>;
}

function choice(name: string, values: readonly (readonly [value: string, shown: string])[]) {
  const select = element('select', {}, ...values.map(([value, shown]) => element('option', { value }, shown)));
  return { select: select as HTMLSelectElement, label: element('label', {}, element('span', {}, name), select) };
}

function chosen(): Usable {
  return commands.find(({ path }) => path === command.select.value) ?? (commands[0] as Usable);
}

function showForm(): void {
  const one = chosen();
  description.textContent = one.form.description;
  if (way.select.value === 'text') {
    const input = element('input', { type: 'text', autocomplete: 'off' }) as HTMLInputElement;
    const { 'x-order': order = [] } = one.form.arguments ?? {};
    fields.replaceChildren(
      element('label', {}, element('span', {}, 'text'), input, element('small', {}, order.join(', '))),
    );
    filled = () => ({ text: input.value });
    return;
  }
  const names = people.map(({ name }) => name);
  const form: FilledForm = formFor(one, { member: names, user: names, tool: about.tools.map(({ name }) => name) });
  fields.replaceChildren(...form.fields);
  filled = () => ({ options: form.options() });
}

/** What one person alone sees is not shown to another. */
function showRoom(): void {
  for (const { node, only } of entries) node.hidden = only !== undefined && only !== person.select.value;
}

function say(
  who: string,
  text: string,
  more: { readonly only?: string | undefined; readonly note?: string; readonly tone?: string | undefined },
): void {
  const { only, note = '', tone = 'plain' } = more;
  const name = people.find(({ id }) => id === only)?.name;
  const notes = [...(name === undefined ? [] : [`for ${name} alone`]), ...(note === '' ? [] : [note])];
  const node = element(
    'li',
    { class: `${only === undefined ? 'open' : 'private'} ${tone}` },
    element('strong', {}, who),
    element('p', {}, text),
    ...(notes.length === 0 ? [] : [element('small', {}, notes.join(', '))]),
  );
  room.append(node);
  entries.push({ node, only });
  showRoom();
  node.scrollIntoView({ block: 'nearest' });
}

interface Answer {
  readonly text: string;
  readonly visibleTo: 'caller' | 'everyone';
  readonly tone?: string;
}

async function post(): Promise<void> {
  const who = personOf(about.world, person.select.value);
  const { path } = chosen();
  const call = `call-${signer.keyId}-${++calls}`;
  const given = filled();
  const { origin } = window.location;
  const url = `${origin}/slash`;
  const what = {
    event: call,
    person: who,
    guild: { id: guild?.id, name: guild?.name },
    channel: guild?.channels[0],
    command: path,
    ...given,
    answerTo: `${origin}/chat/calls/${call}/${who.id}`,
  };
  say(who.name, lineOf(path, given), {});
  const body = JSON.stringify(what);
  const request = await signer.sign(url, body);
  posted.textContent = [
    'POST /slash',
    ...[...request.headers].map(([name, value]) => `${name}: ${value}`),
    '',
    JSON.stringify(what, null, 2),
  ].join('\n');
  const response = await fetch(request).catch(() => undefined);
  if (response?.status === 200) {
    const { text, visibleTo, tone } = (await response.json()) as Answer;
    say('Mallet', text, { only: visibleTo === 'caller' ? who.id : undefined, tone });
  } else if (response?.status === 202) say('Mallet', 'The answer comes later.', { only: who.id });
  else {
    const problem = `The post was answered with ${response?.status ?? 'nothing'}.`;
    say('The chat', problem, { only: who.id, tone: 'problem' });
  }
}

function lineOf(path: string, given: Given): string {
  return given.text === undefined ? writeSlashLine(path.split(' '), given.options) : `/${path} ${given.text}`.trim();
}

new EventSource('chat/messages').addEventListener('message', ({ data }) => {
  const { call, only, text, tone } = JSON.parse(data) as Message;
  say('Mallet', text, {
    only,
    tone,
    note: call === undefined ? 'said without being asked' : 'came late, at its own address',
  });
});

const form = element(
  'form',
  { class: 'using' },
  element('h2', {}, 'A slash command'),
  person.label,
  command.label,
  description,
  way.label,
  fields,
  element('button', { type: 'submit' }, 'Post it'),
);
form.addEventListener('submit', (event) => {
  event.preventDefault();
  void post();
});
person.select.addEventListener('change', showRoom);
for (const { select } of [command, way]) select.addEventListener('change', showForm);
showForm();

document
  .querySelector('#page')
  ?.append(
    element(
      'header',
      {},
      element('h1', {}, 'Mallet behind an address'),
      element(
        'p',
        {},
        `${guild?.name ?? ''}: this page is the chat. It signs each command, posts it to /slash, and shows what comes back.`,
      ),
    ),
    element(
      'main',
      { class: 'desk' },
      form,
      element('section', { class: 'told' }, element('h2', {}, 'The room'), room),
      element('section', { class: 'posted' }, element('h2', {}, 'What was posted'), posted),
    ),
  );
