/** `taxeon new`: the files of a bot that runs and passes its test at once. */
import { existsSync, mkdirSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { basename, dirname, join, relative, resolve } from 'node:path';
import { createInterface } from 'node:readline';
import colors from 'picocolors';
import { errorMessage, UsageError } from './errors.js';
import { print } from './print.js';
import { alignedLines } from './table.js';
import { terminalWidth } from './terminal.js';

const templates = new URL('templates/', import.meta.resolve('@taxeon/command/package.json'));

const platforms = {
  'stand-in': 'the simulated one, a conversation in this terminal',
  irc: 'IRC',
  http: 'a chat that posts slash commands to an address',
  own: 'a chat of your own, with an adapter to fill in',
} as const;
const languages = { js: 'JavaScript', ts: 'TypeScript' } as const;

export type PlatformChoice = keyof typeof platforms;
export type LanguageChoice = keyof typeof languages;

export const platformChoices = Object.keys(platforms) as readonly PlatformChoice[];
export const languageChoices = Object.keys(languages) as readonly LanguageChoice[];

export interface NewOptions {
  readonly platform?: PlatformChoice;
  readonly language?: LanguageChoice;
}

interface NewFile {
  readonly name: string;
  readonly text: string;
  /** What it is for, in a sentence. */
  readonly what: string;
}

/** @throws UsageError where the folder has something in it, or nobody can be asked what is not said */
export async function makeNew(folder: string, options: NewOptions): Promise<void> {
  const path = resolve(folder);
  if (existsSync(path) && (!statSync(path).isDirectory() || readdirSync(path).length > 0)) {
    throw new UsageError(`There is something at ${folder} already; name an empty folder, or a new one.`);
  }
  const { platform, language } = await chosenTemplate(options);
  const files = filesOf(nameFor(path), platform, language);
  try {
    for (const { name, text } of files) {
      mkdirSync(dirname(join(path, name)), { recursive: true });
      writeFileSync(join(path, name), text, { flag: 'wx' });
    }
  } catch (error) {
    throw new UsageError(`${folder} cannot be written: ${errorMessage(error)}`);
  }
  print(`\n  ${colors.bold(basename(path))}, a bot in ${languages[language]} for ${platforms[platform]}\n`);
  for (const line of explained(files.map(({ name, what }) => [name, what]))) print(line);
  const into = relative(process.cwd(), path);
  print(
    `\n  Run ${colors.bold(`${into === '' ? '' : `cd ${into} && `}npm install && npm test`)}, and then ${colors.bold('npm start')}.\n`,
  );
}

async function chosenTemplate({ platform, language }: NewOptions) {
  if (platform !== undefined && language !== undefined) return { platform, language };
  if (process.stdin.isTTY !== true) {
    throw new UsageError(
      `Say --platform ${platformChoices.join(', ')} and --language ${languageChoices.join(' or ')}: nobody can be asked here.`,
    );
  }
  const typing = createInterface({ input: process.stdin });
  const lines = typing[Symbol.asyncIterator]();
  try {
    return {
      platform: platform ?? (await askChoice(lines, 'Which chat?', platforms)),
      language: language ?? (await askChoice(lines, 'Which language?', languages)),
    };
  } finally {
    typing.close();
  }
}

/**
 * Asks until one of the names is typed, or the beginning of one.
 *
 * @throws UsageError where nobody types any more
 */
async function askChoice<Name extends string>(
  lines: AsyncIterator<string>,
  question: string,
  all: Readonly<Record<Name, string>>,
): Promise<Name> {
  const names = Object.keys(all) as Name[];
  print(`\n  ${colors.bold(question)}`);
  for (const line of explained(names.map((name) => [name, all[name]]))) print(line);
  for (;;) {
    process.stdout.write('  > ');
    const { value = '', done } = await lines.next();
    if (done === true) throw new UsageError('Nothing was chosen, so nothing was made.');
    const typed = String(value).trim().toLowerCase();
    const found = names.filter((name) => name.startsWith(typed));
    if (typed !== '' && found.length === 1) return found[0] as Name;
    print(`  Type ${names.join(', ')}.`);
  }
}

function explained(rows: readonly (readonly [string, string])[]): string[] {
  return alignedLines(rows, { width: terminalWidth() - 2, pale: [1] }).map((line) => `  ${line}`);
}

/** What npm takes for a name. */
function nameFor(path: string): string {
  const name = basename(path)
    .toLowerCase()
    .replace(/[^a-z0-9._-]+/g, '-')
    .replace(/^[._-]+/, '');
  return name === '' ? 'bot' : name.slice(0, 100);
}

function filesOf(name: string, platform: PlatformChoice, language: LanguageChoice): readonly NewFile[] {
  const code = (template: string, file: string, what: string): NewFile => ({
    name: `${file}.${language}`,
    text: inLanguage(template, language),
    what,
  });
  return [
    code('shared/bot.template', 'src/bot', 'The bot: its commands, and what they share.'),
    code(`${platform}/main.template`, 'src/main', `Starts it on ${platforms[platform].split(',', 1)[0]}.`),
    ...(platform === 'own'
      ? [code('own/platform.template', 'src/platform', 'The adapter: put your chat’s client into it.')]
      : []),
    {
      name: 'tryouts/first.tryout.yaml',
      text: readTemplate('shared/first.tryout.yaml'),
      what: 'A conversation with the replies it expects: the test.',
    },
    code(
      'shared/taxeon.config.template',
      'taxeon.config',
      'How the taxeon command opens the bot, and with which people.',
    ),
    ...(language === 'ts'
      ? [{ name: 'tsconfig.json', text: jsonText(tsconfig), what: 'What TypeScript checks.' }]
      : []),
    {
      name: 'package.json',
      text: jsonText(packageOf(name, platform, language)),
      what: 'What it needs, and its scripts.',
    },
    { name: '.gitignore', text: 'node_modules\ndist\n', what: 'What is not kept.' },
  ];
}

/** Templates are TypeScript; what JavaScript does without stands in ⟨ ⟩. */
function inLanguage(template: string, language: LanguageChoice): string {
  const text = readTemplate(template);
  return language === 'ts' ? text.replace(/[⟨⟩]/g, '') : text.replace(/⟨[^⟩]*⟩/g, '');
}

function readTemplate(template: string): string {
  return readFileSync(new URL(template, templates), 'utf8');
}

function jsonText(data: unknown): string {
  return `${JSON.stringify(data, null, 2)}\n`;
}

const tsconfig = {
  compilerOptions: {
    target: 'ES2023',
    module: 'NodeNext',
    strict: true,
    exactOptionalPropertyTypes: true,
    skipLibCheck: true,
    types: ['node'],
    rootDir: 'src',
    outDir: 'dist',
  },
  include: ['src'],
};

/** What each platform needs besides. */
const packagesFor: Readonly<Record<PlatformChoice, (version: string) => Readonly<Record<string, string>>>> = {
  'stand-in': (version) => ({ '@taxeon/testing': version }),
  irc: (version) => ({ '@taxeon/irc': version }),
  http: (version) => ({ '@hono/node-server': '2', '@taxeon/http': version, hono: '4' }),
  own: () => ({}),
};

function packageOf(name: string, platform: PlatformChoice, language: LanguageChoice) {
  const { version } = JSON.parse(readTemplate('../package.json')) as { readonly version: string };
  const own = `^${version}`;
  const start = language === 'ts' ? 'tsc && node dist/main.js' : 'node src/main.js';
  return {
    name,
    version: '0.0.1',
    private: true,
    type: 'module',
    scripts: {
      start,
      test: 'taxeon try',
      check: 'taxeon check',
      ...(language === 'ts' ? { types: 'tsc --noEmit' } : {}),
    },
    dependencies: { ...packagesFor[platform](own), taxeon: own },
    devDependencies: {
      '@taxeon/command': own,
      ...(platform === 'stand-in' ? {} : { '@taxeon/testing': own }),
      ...(language === 'ts' ? { '@types/node': '20', typescript: '7' } : {}),
    },
  };
}
