/** What a developer's editor shows: the compiler, and its language server, over the package as it is installed. */
import { execFile, spawn } from 'node:child_process';
import { mkdtemp, readFile, rm, symlink, writeFile } from 'node:fs/promises';
import { createRequire } from 'node:module';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath, pathToFileURL } from 'node:url';
import { promisify } from 'node:util';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { entriesOf, packages } from '../../../scripts/packages.js';

const root = fileURLToPath(new URL('../../..', import.meta.url));
const tsc = join(dirname(createRequire(import.meta.url).resolve('typescript/package.json')), 'bin', 'tsc');

const right = `
import { arg, command, group, type GroupBuilder } from 'taxeon';

export const stewards = ({ caller, anyOf, condition }: GroupBuilder) => [
  anyOf(caller.can('fine'), condition('in the morning', ({ now }) => now % 2 === 0)),
];
export const who = arg.member();
export const mark = arg.custom({ name: 'mark', expected: 'a mark', example: 'B1', read: (text) => text });
export const fine = command({
  name: 'fine',
  description: 'Charge a member',
  args: { who, pence: arg.integer({ min: 1 }), note: arg.tail({ optional: true }), all: arg.list(arg.text()) },
  requires: stewards,
  run: ({ args }) => args.who.name + args.pence,
});
export const overdue = group({ name: 'overdue', description: 'Late', requires: stewards, commands: [fine] });
`;

const wrong = {
  'what the handler gives': `command({ name: 'a', description: 'b', run: () => 7 });`,
  'an option of an argument': `arg.integer({ min: 1, maximum: 3 });`,
  'an option of a command': `command({ name: 'a', description: 'b', descripton: 'c', run: () => 'd' });`,
  'an option of the layer': `createCommandLayer({ commands: [], prefix: ['!'] });`,
  'one requirement in place of a list': `command({ name: 'a', description: 'b', requires: ({ caller }) => caller.can('x'), run: () => 'd' });`,
  'a rank above a text': `command({ name: 'a', description: 'b', args: { who: arg.member(), note: arg.text() }, requires: ({ caller }) => [caller.outranks('note')], run: () => 'd' });`,
};

let folder: string;

beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'taxeon-editor-'));
  await symlink(join(root, 'node_modules'), join(folder, 'node_modules'));
  await writeFile(join(folder, 'package.json'), '{ "type": "module" }');
  const compilerOptions = { module: 'nodenext', target: 'es2023', lib: ['es2023', 'dom'], types: [], strict: true };
  await writeFile(join(folder, 'tsconfig.json'), JSON.stringify({ compilerOptions, include: ['*.ts'] }));
  await writeFile(join(folder, 'right.ts'), right);
});

afterAll(() => rm(folder, { recursive: true }));

/** What the compiler says of one file, line by line. */
async function compile(name: string, ...options: string[]): Promise<string> {
  const files = [
    '--ignoreConfig',
    name,
    '--module',
    'nodenext',
    '--target',
    'es2023',
    '--strict',
    '--types',
    '',
    ...options,
  ];
  try {
    await promisify(execFile)(process.execPath, [tsc, ...files], { cwd: folder });
    return '';
  } catch (error) {
    return (error as { stdout: string }).stdout;
  }
}

/** What the language server shows where `needle` stands in a file. */
async function hover(name: string, needle: string): Promise<string> {
  const server = spawn(process.execPath, [tsc, '--lsp', '--stdio'], { cwd: folder, stdio: ['pipe', 'pipe', 'ignore'] });
  const uri = pathToFileURL(join(folder, name)).href;
  const text = await readFile(join(folder, name), 'utf8');
  const before = text.slice(0, text.indexOf(needle)).split('\n');
  const position = { line: before.length - 1, character: before.at(-1)?.length ?? 0 };
  const send = (message: object) => {
    const content = JSON.stringify({ jsonrpc: '2.0', ...message });
    server.stdin.write(`Content-Length: ${Buffer.byteLength(content)}\r\n\r\n${content}`);
  };
  const answers = new Map<number, (result: unknown) => void>();
  const ask = (id: number, method: string, params: object) =>
    new Promise<unknown>((resolve) => {
      answers.set(id, resolve);
      send({ id, method, params });
    });
  let held = Buffer.alloc(0);
  server.stdout.on('data', (chunk: Buffer) => {
    held = Buffer.concat([held, chunk]);
    for (;;) {
      const head = /^Content-Length: (\d+)[\s\S]*?\r\n\r\n/.exec(held.toString('latin1'));
      const end = head === null ? Number.POSITIVE_INFINITY : head[0].length + Number(head[1]);
      if (head === null || held.length < end) return;
      const message = JSON.parse(held.subarray(head[0].length, end).toString());
      held = held.subarray(end);
      if (message.method === undefined) answers.get(message.id)?.(message.result);
      else if (message.id !== undefined) send({ id: message.id, result: null });
    }
  });
  try {
    const capabilities = { textDocument: { hover: { contentFormat: ['plaintext'] } } };
    await ask(1, 'initialize', { processId: null, rootUri: pathToFileURL(folder).href, capabilities });
    send({ method: 'initialized', params: {} });
    const textDocument = { uri, languageId: 'typescript', version: 1, text };
    send({ method: 'textDocument/didOpen', params: { textDocument } });
    const shown = (await ask(2, 'textDocument/hover', { textDocument: { uri }, position })) as {
      contents: { value: string };
    };
    return shown.contents.value;
  } finally {
    server.kill();
  }
}

describe('an editor', () => {
  test('shows names and values of arguments, and nothing else', async () => {
    expect((await hover('right.ts', 'args }) =>')).replace(/\s+/g, ' ')).toBe(
      '(parameter) args: { readonly who: Member; readonly pence: number; readonly note: string | undefined; readonly all: readonly string[]; }',
    );
  });

  test('takes helpers that commands and groups share, and exports that name nothing unexported', async () => {
    expect(await compile('right.ts', '--declaration', '--emitDeclarationOnly', '--outDir', 'types')).toBe('');
    const written = await readFile(join(folder, 'types', 'right.d.ts'), 'utf8');
    const named = [...written.matchAll(/import\("([^"]+)"\)|from '([^']+)'/g)].map(([, one, other]) => one ?? other);
    expect(new Set(named)).toEqual(new Set(['taxeon']));
  });

  test('exports whatever the library gives, of each kind and each package, without a name that it cannot import', async () => {
    const entries = packages.filter((name) => name !== 'command').flatMap(entriesOf);
    const lines = ['declare function given<R>(make: (...given: never) => R): R;'];
    for (const [index, { entry }] of entries.entries()) {
      lines.push(`import * as e${index} from '${entry}';`);
      const { arg = {}, ...all } = (await import(entry)) as Record<string, unknown>;
      const makers = [
        ...Object.entries(all),
        ...Object.entries(arg as object).map(([kind, it]) => [`arg.${kind}`, it] as const),
      ];
      for (const [name, it] of makers.filter(([, one]) => typeof one === 'function')) {
        const made = /^class\b/.test(String(it))
          ? `null as unknown as InstanceType<typeof e${index}.${name}>`
          : `given(e${index}.${name})`;
        lines.push(`export const of_${index}_${name.replace('.', '_')} = ${made};`);
      }
    }
    expect(lines.length).toBeGreaterThan(100);
    lines.push(
      "export const own = e0.messages({ 'tool.out': { until: 'datetime' } }, { en: { 'tool.out': 'Out till {until}.' } });",
      "export const words = e0.vocabulary({ permissions: ['fine'] });",
    );
    await writeFile(join(folder, 'given.ts'), lines.join('\n'));
    const flags = [
      '--skipLibCheck',
      '--lib',
      'es2023,dom',
      '--declaration',
      '--emitDeclarationOnly',
      '--outDir',
      'types',
    ];
    expect(await compile('given.ts', ...flags)).toBe('');
  });

  test.each([
    ['what the handler gives', /Type 'number' is not assignable to type 'HandlerResult'/],
    ['an option of an argument', /NoSuchOption<"maximum">/],
    ['an option of a command', /'descripton' does not exist .* Did you mean to write 'description'\?/],
    ['an option of the layer', /'prefix' does not exist .* Did you mean to write 'prefixes'\?/],
    ['one requirement in place of a list', /Type 'Requirement' is not assignable to type 'ListOfRequirements'/],
    ['a rank above a text', /Argument of type '"note"' is not assignable to parameter of type '"who"'/],
  ] as const)('says what is wrong with %s', async (what, says) => {
    const name = `${what.replaceAll(' ', '-')}.ts`;
    await writeFile(join(folder, name), `import { arg, command, createCommandLayer } from 'taxeon';\n${wrong[what]}\n`);
    const said = await compile(name, '--noEmit', '--noUnusedLocals', 'false');
    expect(said).toMatch(says);
    expect(said).not.toMatch(/to type '(?:never|void)'/);
    // One mistake, told once.
    expect(said.split('\n').filter((line) => line.startsWith(name))).toHaveLength(1);
  });
});
