/** What looks wrong with a bot that opens: nothing that keeps it from running, and probably not meant. */
import { nearNames } from '../../base/near.js';
import type { CompiledCommand } from '../../catalogue/catalogue.js';
import { holdsMembers } from '../../commands/arg.js';
import { leavesOf, type Requirement } from '../../commands/requirements.js';
import type { Platform } from '../../contract/platform.js';
import type { CommandLayer } from '../../layer/command-layer.js';
import { insideOf } from '../../layer/inside.js';
import type { Language } from '../../replies/language.js';
import { nearPairs } from './names.js';
import { worldWarnings } from './world.js';

/** Something to look at, with what mends it. */
export interface BotWarning {
  /** The command's or group's base name; `(layer)` for what is of no command. */
  readonly command: string;
  readonly warning: string;
}

/**
 * Looks for commands on members that ask too little, names that are one letter apart, words that a language lacks; with a
 * platform, for permissions that nothing gives or nobody has, and examples that do not read there.
 *
 * @example
 * import { checkBot } from 'taxeon/queries';
 *
 * for (const { command, warning } of await checkBot(layer, platform)) console.warn(`${command}: ${warning}`);
 */
export async function checkBot(layer: CommandLayer, platform?: Platform): Promise<readonly BotWarning[]> {
  const inside = insideOf(layer);
  const { current, beginning, languages } = inside;
  const { catalogue } = current;
  const { rights } = beginning;
  const known =
    platform?.permissions === undefined ? undefined : [...platform.permissions, ...rights.rolesGiving.keys()];
  const found = new Map<string, Set<string>>([['(layer)', new Set(languages.flatMap(languageWarnings))]]);
  const add = (name: string, warnings: Iterable<string>) => {
    const all = found.get(name) ?? new Set();
    found.set(name, all);
    for (const warning of warnings) all.add(warning);
  };
  for (const command of catalogue.commands) {
    const leaves = command.requires.flatMap(({ requirement }) => [...leavesOf<Requirement>(requirement)]);
    add(command.name, targetWarnings(command, leaves));
    if (known !== undefined) add(command.name, permissionWarnings(leaves, known));
  }
  for (const [entry, warning] of nearPairs(catalogue)) add(entry.name, [warning]);
  if (platform !== undefined)
    for (const [{ name }, warning] of await worldWarnings(inside, platform)) add(name, [warning]);
  return [...found].flatMap(([command, warnings]) => [...warnings].map((warning) => ({ command, warning })));
}

/** A language that is made of messages tells which it has none for. */
function languageWarnings(language: Language & { readonly missing?: readonly string[] }): readonly string[] {
  const { locale, missing = [] } = language;
  if (missing.length === 0) return [];
  const some = missing.slice(0, MOST_MISSING).join(', ');
  const rest = missing.length > MOST_MISSING ? ` and ${missing.length - MOST_MISSING} more` : '';
  return [`the language ${locale} has no words for ${some}${rest}; they are said in English`];
}

const MOST_MISSING = 8;

function* targetWarnings({ slots }: CompiledCommand, leaves: readonly Requirement[]): Iterable<string> {
  const targets = slots.all.filter(holdsMembers);
  const named = targets.map(({ name }) => `“${name}”`).join(' and ');
  if (targets.length === 0) return;
  if (leaves.length === 0) {
    yield `names a member, ${named}, and everybody may run it; say in \`requires\` who may`;
    return;
  }
  for (const { name } of targets) {
    if (leaves.some(({ traits, parameters }) => traits.ranks === true && parameters.argument === name)) continue;
    yield `asks for no rank: who may run it may do it to people above them; add caller.outranks('${name}')`;
  }
  if (!leaves.some(({ traits }) => traits.permissionOf === 'bot')) {
    yield `asks for no permission of the bot; if it changes ${named} on the platform, add bot.can('…')`;
  }
}

function* permissionWarnings(leaves: readonly Requirement[], known: readonly string[]): Iterable<string> {
  for (const { parameters } of leaves) {
    const { permission } = parameters;
    if (permission === undefined || known.includes(permission)) continue;
    const [near] = nearNames(permission, known);
    const mend = near === undefined ? 'give it to one of the bot’s roles in `roles`' : `did you mean ${near}?`;
    yield `asks for the permission ${permission}, which no role gives and the platform does not know; ${mend}`;
  }
}
