/** `taxeon completion`: what a shell needs to complete the words of the command itself. */
import type { Command } from 'commander';

export const shells = ['bash', 'zsh', 'fish'] as const;
export type Shell = (typeof shells)[number];

interface OptionOfCommand {
  readonly name: string;
  readonly does: string;
  /** What may stand behind it; `files` for paths, nothing for what only the bot knows. */
  readonly takes: readonly string[] | 'files' | 'anything' | 'nothing';
}

interface CompletedWord {
  readonly name: string;
  readonly does: string;
  readonly flags: readonly OptionOfCommand[];
  /** What its argument is one of; paths where it is anything. */
  readonly choices: readonly string[];
}

export function completionScript(program: Command, shell: Shell): string {
  const words = program.commands.map(wordOf);
  switch (shell) {
    case 'bash':
      return bash(words);
    case 'zsh':
      return zsh(words);
    case 'fish':
      return fish(words);
  }
}

function wordOf(command: Command): CompletedWord {
  const flags = command.createHelp().visibleOptions(command);
  return {
    name: command.name(),
    does: command.description(),
    choices: command.registeredArguments[0]?.argChoices ?? [],
    flags: flags.map(({ long, description, argChoices, flags: written }) => ({
      name: long ?? '',
      does: description,
      takes: argChoices ?? valueOfFlags(written),
    })),
  };
}

function valueOfFlags(flags: string): Exclude<OptionOfCommand['takes'], readonly string[]> {
  const [, value] = /<([^>]+)>/.exec(flags) ?? [];
  if (value === undefined) return 'nothing';
  return value === 'file' || value === 'path' ? 'files' : 'anything';
}

/** Those that take something, with the words of the command in front. */
function taking(words: readonly CompletedWord[]) {
  return words.flatMap(({ name, flags }) =>
    flags.flatMap(({ name: flag, takes }) => (takes === 'nothing' ? [] : [{ key: `${name} ${flag}`, takes }])),
  );
}

function bash(words: readonly CompletedWord[]): string {
  const values = taking(words).map(({ key, takes }) => {
    const found =
      takes === 'files'
        ? 'compgen -f -- "$word"'
        : takes === 'anything'
          ? ':'
          : `compgen -W '${shellList(takes)}' -- "$word"`;
    return `    '${key}') COMPREPLY=($(${found})); return ;;`;
  });
  const flags = words.map(
    ({ name, flags, choices }) =>
      `    '${name}') if [[ $word == -* ]]; then names='${shellList(flags.map((one) => one.name))}'; else names='${shellList(choices)}'; fi ;;`,
  );
  return `# taxeon, for bash: eval "$(taxeon completion bash)"
_taxeon() {
  local word=\${COMP_WORDS[COMP_CWORD]} before=\${COMP_WORDS[COMP_CWORD-1]} names=
  COMPREPLY=()
  if ((COMP_CWORD == 1)); then
    COMPREPLY=($(compgen -W '${shellList(words.map(({ name }) => name))}' -- "$word"))
    return
  fi
  case "\${COMP_WORDS[1]} $before" in
${values.join('\n')}
  esac
  case "\${COMP_WORDS[1]}" in
${flags.join('\n')}
  esac
  if [[ -n $names ]]; then COMPREPLY=($(compgen -W "$names" -- "$word")); else COMPREPLY=($(compgen -f -- "$word")); fi
}
complete -o filenames -F _taxeon taxeon`;
}

function zsh(words: readonly CompletedWord[]): string {
  const described = (all: readonly { readonly name: string; readonly does: string }[]) =>
    all.map(({ name, does }) => shellQuoted(`${name}:${does.replaceAll(':', '\\:')}`)).join(' ');
  const values = taking(words).map(({ key, takes }) => {
    const found = takes === 'files' ? '_files' : takes === 'anything' ? ':' : `compadd -- ${shellList(takes)}`;
    return `    ${shellQuoted(key)}) ${found}; return ;;`;
  });
  const flags = words.map(
    ({ name, flags, choices }) => `    ${name}) names=(${described(flags)}) choices=(${shellList(choices)}) ;;`,
  );
  return `# taxeon, for zsh: source <(taxeon completion zsh), behind compinit
_taxeon() {
  local -a names choices
  if ((CURRENT == 2)); then
    names=(${described(words)})
    _describe command names
    return
  fi
  case "$words[2] $words[CURRENT-1]" in
${values.join('\n')}
  esac
  case "$words[2]" in
${flags.join('\n')}
  esac
  if [[ $words[CURRENT] == -* ]]; then _describe option names
  elif (($#choices)); then compadd -- $choices
  else _files; fi
}
compdef _taxeon taxeon`;
}

function fish(words: readonly CompletedWord[]): string {
  const commands = words.map(
    ({ name, does }) => `complete -c taxeon -f -n __fish_use_subcommand -a ${name} -d ${shellQuoted(does)}`,
  );
  const flags = words.flatMap(({ name, flags }) =>
    flags.map(({ name: flag, does, takes }) => {
      const value =
        takes === 'nothing'
          ? ''
          : takes === 'files'
            ? ' -r -F'
            : takes === 'anything'
              ? ' -x'
              : ` -x -a ${shellQuoted(shellList(takes))}`;
      return `complete -c taxeon -n '__fish_seen_subcommand_from ${name}' -l ${flag.slice(2)}${value} -d ${shellQuoted(does)}`;
    }),
  );
  const choices = words.flatMap(({ name, choices: all }) =>
    all.length === 0
      ? []
      : `complete -c taxeon -f -n '__fish_seen_subcommand_from ${name}' -a ${shellQuoted(shellList(all))}`,
  );
  return ['# taxeon, for fish: taxeon completion fish | source', ...commands, ...flags, ...choices].join('\n');
}

function shellList(names: readonly string[]): string {
  return names.join(' ');
}

/** As one word of any of the three shells, which write a quote inside in three ways. */
function shellQuoted(text: string): string {
  return `'${text.replaceAll("'", '’')}'`;
}
