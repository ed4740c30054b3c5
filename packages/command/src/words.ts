/** What the parser of the command line shows and tells, in the words of this command. */
import { styleText } from 'node:util';
import { type Argument, Command, type Help, type Option } from 'commander';
import { UsageError } from './errors.js';

/** A command whose mistakes are told as all others of this command are. */
export class SpokenCommand extends Command {
  constructor(name?: string) {
    super(name);
    this.configureHelp({ formatHelp }).helpCommand(false).helpOption('-h, --help', 'Shows this.');
  }

  override createCommand(name?: string): Command {
    return new SpokenCommand(name);
  }

  /** @throws UsageError */
  override error(message: string, { code = '' } = {}): never {
    const { parent } = this;
    const line = parent === null ? this.name() : `${parent.name()} ${this.name()}`;
    throw new UsageError(mistakeInWords(code, message, line));
  }
}

/** The parser names what is wrong by a code, and puts what was typed in quotes. */
function mistakeInWords(code: string, message: string, line: string): string {
  const [first = '', second = ''] = [...message.matchAll(/'([^']*)'/g)].map(([, quoted]) => quoted);
  const [flag, value = ''] = first.split(' ');
  const [, found] = /Did you mean (?:one of )?(.+)\?/.exec(message) ?? [];
  const near = found === undefined ? `${line} --help shows what there is` : `did you mean ${eitherOf(found)}?`;
  switch (code) {
    case 'commander.unknownCommand':
      return sentence(`There is no taxeon ${first}; ${near}`);
    case 'commander.unknownOption':
      return sentence(`There is no ${first} in ${line}; ${near}`);
    case 'commander.missingArgument':
      return sentence(`${line} needs a <${first}> behind it`);
    case 'commander.excessArguments':
      return sentence(`There is too much behind ${line}; what has several words stands in quotes`);
    case 'commander.optionMissingArgument':
      return sentence(`${flag} needs a ${value} behind it`);
    case 'commander.missingMandatoryOptionValue':
      return sentence(`${line} needs ${first}`);
    case 'commander.conflictingOption':
      return sentence(`${flag} and ${second.split(' ')[0]} do not go together`);
    default: {
      const [, allowed] = /Allowed choices are (.+)\./.exec(message) ?? [];
      // Of a value that is none of those that it may be; what stands behind a command itself comes first.
      const [what, typed] = first.startsWith('--') ? [flag, second] : [`<${second}>`, first];
      return sentence(allowed === undefined ? message : `${what} is ${eitherOf(allowed)}, and not "${typed}"`);
    }
  }
}

function sentence(text: string): string {
  return /[.?]$/.test(text) ? text : `${text}.`;
}

/** `'a, b, c'` in words. */
function eitherOf(names: string): string {
  return names.replace(/, (?=[^,]*$)/, ' or ');
}

/** What it does, and then whole sentences on each thing that there is. */
function formatHelp(command: Command, helper: Help): string {
  const width = helper.helpWidth ?? 80;
  const list = (items: readonly (readonly [name: string, does: string])[]) => {
    const widest = Math.max(...items.map(([name]) => name.length));
    return items.map(([name, does]) => helper.formatItem(name, widest, does, helper)).join('\n');
  };
  const { parent } = command;
  const blocks = [helper.boxWrap(command.description(), width)];
  if (parent === null) {
    const commands = helper.visibleCommands(command);
    const widest = Math.max(...commands.map((one) => writtenAs(one).length));
    for (const [group, own] of helper.groupItems(commands, commands, (one) => one.helpGroup())) {
      const items = own.map((one) =>
        helper.formatItem(writtenAs(one), widest, one.summary() || one.description(), helper),
      );
      blocks.push([styleText('bold', group), ...items].join('\n'));
    }
    blocks.push(`Write ${command.name()} COMMAND --help for all that a command takes.`);
  } else {
    const items = [
      ...helper.visibleArguments(command).map((one) => [termOf(one), one.description] as const),
      ...helper.visibleOptions(command).map((one) => [one.flags, describedOption(one)] as const),
    ];
    blocks.unshift(styleText('bold', `${parent.name()} ${writtenAs(command)}`));
    blocks.push(list(items));
  }
  return `${blocks.join('\n\n')}\n`;
}

function writtenAs(command: Command): string {
  return [command.name(), ...command.registeredArguments.map(termOf)].join(' ');
}

function termOf(argument: Argument): string {
  const name = argument.name() + (argument.variadic ? '...' : '');
  return argument.required ? `<${name}>` : `[${name}]`;
}

/** What an option may be, where it is one of a few, is told by the option itself. */
function describedOption({ description, argChoices, defaultValue }: Option): string {
  if (argChoices === undefined) return description;
  const otherwise = typeof defaultValue === 'string' ? `; ${defaultValue} where you do not say` : '';
  return `${description} Takes ${eitherOf(argChoices.join(', '))}${otherwise}.`;
}
