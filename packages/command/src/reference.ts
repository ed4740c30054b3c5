/** `taxeon reference`: the bot's commands for its people. */
import { systemClock } from 'taxeon';
import { type Reference, type ReferenceCommand, referenceOf } from 'taxeon/queries';
import { guildPlaceOf } from './access.js';
import { UsageError } from './errors.js';
import { aboutPlace, printJson } from './json.js';
import { openBot } from './open.js';
import { print } from './print.js';

export interface ReferenceCommandOptions {
  readonly in?: string;
  readonly as?: string;
  readonly language?: string;
  readonly format: 'markdown' | 'html';
  readonly json: boolean;
  readonly config?: string;
}

export async function showReference(options: ReferenceCommandOptions): Promise<void> {
  const { layer, platform } = await openBot(options.config, systemClock);
  const place = guildPlaceOf(options.in, platform);
  const { as, language, format, json } = options;
  let reference: Reference;
  try {
    reference = await referenceOf(layer, place, platform, {
      ...(as === undefined ? {} : { as: platform.directory.guilds.get(place.guild.id)?.members.get(as) ?? as }),
      ...(language === undefined ? {} : { locale: language }),
    });
  } catch (error) {
    if (error instanceof TypeError) throw new UsageError(`${error.message}.`);
    throw error;
  }
  if (language !== undefined && !`${language}-`.toLowerCase().startsWith(`${reference.locale}-`.toLowerCase()))
    throw new UsageError(`The bot does not speak "${language}"; give it in \`languages\`.`);
  const { guild: _, ...described } = reference;
  if (json) printJson({ about: aboutPlace(place), ...described });
  else if (format === 'html') print((await import('./reference-page.js')).referencePage(reference));
  else print(markdown(reference));
}

function markdown({ title, guild, as, sections }: Reference): string {
  const lines = [`# ${markdownText(title)}: ${markdownText(guild)}${as === undefined ? '' : ` (${markdownText(as)})`}`];
  for (const { heading, commands } of sections) {
    if (heading !== undefined) lines.push('', `## ${markdownText(heading)}`);
    for (const command of commands) lines.push('', ...commandLines(command, heading === undefined ? '##' : '###'));
  }
  return lines.join('\n');
}

function commandLines({ name, description, usage, args, examples, notes }: ReferenceCommand, level: string): string[] {
  const rows = args.map(
    ({ written, description: what, takes }) => `| ${code(written)} | ${markdownText(what)} | ${markdownText(takes)} |`,
  );
  return [
    `${level} ${markdownText(name)}`,
    '',
    markdownText(description),
    '',
    code(usage),
    ...(rows.length === 0 ? [] : ['', '| | | |', '|---|---|---|', ...rows]),
    ...(examples.length === 0 ? [] : ['', examples.map(code).join(' · ')]),
    ...(notes.length === 0 ? [] : ['', ...notes.map((note) => `- ${markdownText(note)}`)]),
  ];
}

/** As it stands, whatever it holds. */
function markdownText(raw: string): string {
  return raw.replace(/\n/g, ' ').replace(/[\\`*_{}[\]<>#|~!&]/g, '\\$&');
}

/** In a table, too. */
function code(raw: string): string {
  const fence = raw.includes('`') ? '``' : '`';
  return `${fence}${raw.replace(/\n/g, ' ').replace(/\|/g, '\\|')}${fence}`;
}
