/** The `taxeon` command. Each part is loaded only when it is asked for, so that every start is quick. */
import { createRequire } from 'node:module';
import { Argument, CommanderError, Option } from 'commander';
import type { Shell } from './completion.js';
import { errorMessage, UsageError } from './errors.js';
import { complain, print } from './print.js';
import { SpokenCommand } from './words.js';

const { version } = createRequire(import.meta.url)('@taxeon/command/package.json') as { readonly version: string };

// A reader of the beginning alone, such as `head`, closes the pipe: that is the end, and no error.
process.stdout.on('error', (error: NodeJS.ErrnoException) => {
  if (error.code === 'EPIPE') process.exit(0);
  throw error;
});

const program = new SpokenCommand('taxeon')
  .description('taxeon works on the command layer of a chat bot: the one that the folder’s taxeon.config.ts opens.')
  .version(version, '--version', 'Prints the version.')
  .exitOverride();

program
  .command('new')
  .helpGroup('Make')
  .summary('Makes a bot that runs, with a test that passes.')
  .description('Makes a bot that runs and passes its test at once, and asks you for what you do not say.')
  .argument('<folder>', 'Is a new folder, or an empty one.')
  .addOption(
    new Option('--platform <platform>', 'Says which chat it is on.').choices(['stand-in', 'irc', 'http', 'own']),
  )
  .addOption(new Option('--language <language>', 'Says JavaScript or TypeScript.').choices(['js', 'ts']))
  .action(async (folder: string, options) => {
    const { makeNew } = await import('./new.js');
    await makeNew(folder, options);
  });

program
  .command('check')
  .helpGroup('Make')
  .summary('Finds what is wrong, and what looks as if it were not meant.')
  .description('Finds what is wrong with the bot, and what looks as if it were not meant.')
  .addOption(jsonOption())
  .addOption(config())
  .action(async (options) => {
    const { checkConfigured } = await import('./check.js');
    process.exitCode = await checkConfigured(options);
  });

program
  .command('explain')
  .helpGroup('Ask')
  .summary('Tells what the bot would do with a line, stage by stage.')
  .description('Tells what the bot would do with a line, stage by stage. It runs nothing and uses up no limit.')
  .argument('<line>', 'Is what is typed, in quotes; by slash: "/fine who=wren pence=50".')
  .option('--as <person>', 'Says who types it, by id or name.')
  .option('--in <place>', 'Says where: GUILD, GUILD/CHANNEL or direct; at the console, which place the line is about.')
  .addOption(surface())
  .addOption(
    new Option('--complete', 'Tells what could stand where the line ends, instead.')
      .default(false)
      .conflicts(['expect']),
  )
  .option('--at <time>', 'Says when it is typed, as in 2026-05-09T13:00:00Z; now where you do not say.')
  .option(
    '--expect <what>',
    'Ends with status 1 unless it comes to this: a status or code, as in runs or permission.rank.',
  )
  .addOption(jsonOption())
  .addOption(config())
  .action(async (line: string, options) => {
    const { explainLine } = await import('./explain.js');
    await explainLine(line, options);
  });

program
  .command('access')
  .helpGroup('Ask')
  .description('Shows who may run what in a guild, and on what it depends.')
  .option('--in <guild>', 'Names the guild, or GUILD/CHANNEL; the first where you do not say.')
  .option('--as <person>', 'Adds a column for a person, by id or name.')
  .addOption(
    new Option('--bot', 'Shows what the bot itself must be allowed, over all commands.')
      .default(false)
      .conflicts(['in', 'as', 'expect']),
  )
  .option('--expect <file>', 'Ends with status 1 unless the table is as it was kept with --json.')
  .addOption(jsonOption().conflicts('format'))
  .addOption(
    new Option('--format <format>', 'Writes it in another form.').choices(['table', 'csv', 'html']).default('table'),
  )
  .addOption(config())
  .action(async (options) => {
    const { showAccess } = await import('./access.js');
    await showAccess(options);
  });

program
  .command('reference')
  .helpGroup('Ask')
  .description('Writes the page of commands for the bot’s people.')
  .option('--in <guild>', 'Names the guild; the first where you do not say.')
  .option('--as <role>', 'Leaves out what people of this role, or this person by id, may not run.')
  .option('--language <locale>', 'Says the language, as in pl.')
  .addOption(jsonOption().conflicts('format'))
  .addOption(
    new Option('--format <format>', 'Writes it in another form.').choices(['markdown', 'html']).default('markdown'),
  )
  .addOption(config())
  .action(async (options) => {
    const { showReference } = await import('./reference.js');
    await showReference(options);
  });

program
  .command('console')
  .helpGroup('Try')
  .summary('Lets you talk with the bot here, as any of its people.')
  .description('Lets you talk with the bot in this terminal, as any of its people.')
  .option('--as <person>', 'Says who types, by id or name; the first where you do not say.')
  .option('--in <place>', 'Says where: GUILD, GUILD/CHANNEL or direct; the first guild where you do not say.')
  .addOption(surface())
  .addOption(new Option('--clock <clock>', 'Says whose time it is.').choices(['real', 'virtual']).default('real'))
  .option('--begins <time>', 'Says when a virtual clock begins, as in 2026-05-09T13:00:00Z; now where you do not say.')
  .addOption(config())
  .action(async (options) => {
    const { converse } = await import('./console.js');
    await converse(options);
  });

program
  .command('try')
  .helpGroup('Try')
  .summary('Plays tryouts: conversations with the replies that they expect.')
  .description('Plays tryouts: scripted conversations with the replies that they expect.')
  .argument('[files...]', 'Are files, or folders with *.tryout.yaml in them; this folder where you do not say.')
  .addOption(
    new Option('--all', 'Shows each conversation whole, also where it is as expected.')
      .default(false)
      .conflicts(['json', 'format']),
  )
  .option('--uncovered', 'Shows what no tryout touches: commands, arguments, requirements, limits.', false)
  .option('--update', 'Writes what was said into the files, in place of what they expect.', false)
  .addOption(
    new Option('--watch', 'Plays them again whenever a file changes.').default(false).conflicts(['json', 'format']),
  )
  .addOption(jsonOption().conflicts('format'))
  .addOption(
    new Option('--format <format>', 'Writes it in another form.')
      .choices(['text', 'junit'])
      .default('text')
      .conflicts('uncovered'),
  )
  .addOption(config())
  .action(async (files: readonly string[], options) => {
    const { tryTryouts } = await import('./try.js');
    process.exitCode = await tryTryouts(files, options);
  });

program
  .command('demo')
  .helpGroup('Try')
  .summary('Plays an afternoon of the Oddmere Tool Library.')
  .description('Plays an afternoon of the Oddmere Tool Library through a real command layer. It needs no bot of yours.')
  .option('--store <file>', 'Keeps what is counted in a file, for taxeon usage and taxeon limits.')
  .action(async (options) => {
    const { playDemo } = await import('./demo.js');
    process.exitCode = await playDemo(options);
  });

program
  .command('register')
  .helpGroup('Run')
  .summary('Shows how a platform’s slash commands differ, and registers them.')
  .description(
    'Shows how the slash commands that a platform holds differ from the declared ones. It registers them only with --now.',
  )
  .addOption(new Option('--now', 'Carries it out.').default(false).conflicts(['manifest', 'expect']))
  .option('--remove-left-over', 'Also removes what this bot has registered and no longer declares, with --now.', false)
  .option('--scope <scope...>', 'Keeps to these: everywhere, a set of guilds by name, or a guild by key or id.')
  .option('--aliases', 'Registers aliases as commands of their own.', false)
  .addOption(
    new Option('--manifest', 'Prints what would be registered, and asks the platform nothing.')
      .default(false)
      .conflicts(['scope', 'removeLeftOver', 'expect', 'json']),
  )
  .addOption(
    new Option('--expect <what>', 'Ends with status 1 unless the platform holds what is declared.').choices(['same']),
  )
  .addOption(jsonOption())
  .addOption(config())
  .action(async (options) => {
    const { registerCommands } = await import('./register.js');
    await registerCommands(options);
  });

program
  .command('usage')
  .helpGroup('Run')
  .description('Tells what was used how often, from a store.')
  .addOption(store())
  .addOption(botOnServer())
  .option('--in <guild>', 'Keeps to what was used in a guild, by id.')
  .option('--since <day>', 'Begins on this day, as in 2026-05-09, in UTC.')
  .addOption(jsonOption().conflicts('format'))
  .addOption(new Option('--format <format>', 'Writes it in another form.').choices(['table', 'csv']).default('table'))
  .action(async (options) => {
    const { showUsage } = await import('./usage.js');
    await showUsage(options);
  });

program
  .command('limits')
  .helpGroup('Run')
  .summary('Tells what is counted now in a store, and forgets it.')
  .description('Tells what is counted now in a store, and forgets what you say.')
  .addOption(store())
  .addOption(botOnServer())
  .option('--of <id>', 'Keeps to what is counted for the id of a person, a guild or a channel.')
  .option('--reset <limit>', 'Forgets what --of has used of a limit.')
  .addOption(jsonOption())
  .action(async (options) => {
    const { showLimits } = await import('./limits.js');
    await showLimits(options);
  });

program
  .command('completion')
  .helpGroup('Run')
  .summary('Prints what your shell needs to complete these words.')
  .description('Prints what your shell needs to complete these words: eval "$(taxeon completion bash)"')
  .addArgument(new Argument('<shell>', 'Is bash, zsh or fish.').choices(['bash', 'zsh', 'fish']))
  .action(async (shell: Shell) => {
    const { completionScript } = await import('./completion.js');
    print(completionScript(program, shell));
  });

/** What Node.js ends with where nothing is under way any more, and the command still waits. */
const UNSETTLED = 13;

process.once('exit', () => {
  if (process.exitCode !== UNSETTLED) return;
  complain(
    'taxeon: The configuration never answers: what its `open`, an event or a state gives is a promise that does not settle.',
  );
  process.exitCode = 2;
});
try {
  await program.parseAsync();
} catch (error) {
  process.exitCode = exitCodeOf(error);
}

// The same for all commands that take them.
function jsonOption(): Option {
  return new Option('--json', 'Prints one JSON object.').default(false);
}

function config(): Option {
  return new Option('--config <path>', 'Takes this configuration, and not the one of this folder.');
}

function surface(): Option {
  return new Option('--surface <surface>', 'Says how the bot is reached.')
    .choices(['text', 'slash', 'console'])
    .default('text');
}

function store(): Option {
  return new Option(
    '--store <where>',
    'Is the file that the bot counts in, or redis://localhost:6379.',
  ).makeOptionMandatory();
}

function botOnServer(): Option {
  return new Option('--bot <name>', 'Names the bot, on a Redis server.');
}

function exitCodeOf(error: unknown): number {
  // Help and the version were asked for, or nothing was.
  if (error instanceof CommanderError) return error.exitCode === 0 ? 0 : 2;
  if (!(error instanceof UsageError)) throw error;
  complain(`taxeon: ${errorMessage(error)}`);
  return 2;
}
