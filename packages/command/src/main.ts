/** The `taxeon` command. Each part is loaded only when it is asked for, so that every start is quick. */
import { createRequire } from 'node:module';
import { Argument, Command, CommanderError, Option } from 'commander';
import type { Shell } from './completion.js';
import { messageOf, UsageError } from './errors.js';

const { version } = createRequire(import.meta.url)('@taxeon/command/package.json') as { readonly version: string };

// Whoever reads only the beginning, such as `head`, closes the pipe: that is the end, and no error.
process.stdout.on('error', (error: NodeJS.ErrnoException) => {
  if (error.code === 'EPIPE') process.exit(0);
  throw error;
});

const program = new Command('taxeon')
  .description('The command layer of a chat bot: see it play, ask it why')
  .version(version, '--version', 'print the version')
  .exitOverride()
  .configureOutput({ outputError: (text, write) => write(`taxeon: ${text.replace(/^error: /, '')}`) });

program
  .command('demo')
  .description('play an afternoon of the Oddmere Tool Library through a real command layer')
  .option('--store <file>', 'keep what is counted in a file, for `taxeon usage` and `taxeon limits`')
  .action(async (options) => {
    const { playDemo } = await import('./demo.js');
    process.exitCode = await playDemo(options);
  });

program
  .command('explain')
  .description('what the bot would do with a line, stage by stage; runs nothing and uses up no limit')
  .argument('<line>', 'what is typed; by slash: /fine who=wren pence=50')
  .option('--as <person>', 'who types it, by id or name')
  .option('--in <place>', 'a guild, guild/channel, or direct; at the console, which one the line is about')
  .addOption(
    new Option('--surface <surface>', 'how it is reached').choices(['text', 'slash', 'console']).default('text'),
  )
  .option('--config <path>', 'the configuration; the taxeon.config.ts in this folder by default')
  .addOption(
    new Option('--complete', 'what could stand where the line ends, instead').default(false).conflicts(['expect']),
  )
  .option('--at <time>', 'when it is typed, such as 2026-05-09T13:00:00Z; now by default')
  .option('--expect <what>', 'the status or code that it should come to, such as runs or permission.rank')
  .addOption(json())
  .action(async (line: string, options) => {
    const { explainLine } = await import('./explain.js');
    await explainLine(line, options);
  });

program
  .command('access')
  .description('who may run what in a guild, and why not')
  .option('--in <guild>', 'the guild, or guild/channel; the first by default')
  .option('--as <person>', "a person's own column, by id or name")
  .addOption(
    new Option('--bot', 'what the bot itself must be allowed, over all commands')
      .default(false)
      .conflicts(['in', 'as', 'expect']),
  )
  .option('--expect <file>', 'a table that was kept with --json, which it should be')
  .addOption(json().conflicts('format'))
  .addOption(new Option('--format <format>', 'how it is written').choices(['table', 'csv', 'html']).default('table'))
  .option('--config <path>', 'the configuration; the taxeon.config.ts in this folder by default')
  .action(async (options) => {
    const { showAccess } = await import('./access.js');
    await showAccess(options);
  });

program
  .command('reference')
  .description("the bot's commands for its people: as Markdown, as one page with search, or as data")
  .option('--in <guild>', 'the guild; the first by default')
  .option('--as <role>', 'only what people of this role, or this person by id, may run')
  .option('--language <locale>', 'the language, such as pl')
  .addOption(json().conflicts('format'))
  .addOption(new Option('--format <format>', 'how it is written').choices(['markdown', 'html']).default('markdown'))
  .option('--config <path>', 'the configuration; the taxeon.config.ts in this folder by default')
  .action(async (options) => {
    const { showReference } = await import('./reference.js');
    await showReference(options);
  });

program
  .command('check')
  .description('what is wrong with the bot, and what looks as if it were not meant')
  .addOption(json())
  .option('--config <path>', 'the configuration; the taxeon.config.ts in this folder by default')
  .action(async (options) => {
    const { checkConfigured } = await import('./check.js');
    process.exitCode = await checkConfigured(options);
  });

program
  .command('new')
  .description('make a bot that runs and passes its test at once')
  .argument('<folder>', 'a new folder, or an empty one')
  .addOption(new Option('--platform <platform>', 'which chat it is on').choices(['stand-in', 'irc', 'http', 'own']))
  .addOption(new Option('--language <language>', 'JavaScript or TypeScript').choices(['js', 'ts']))
  .action(async (folder: string, options) => {
    const { makeNew } = await import('./new.js');
    await makeNew(folder, options);
  });

program
  .command('try')
  .description('play tryouts: scripted conversations with the replies they expect')
  .argument('[files...]', 'files, or folders with *.tryout.yaml in them; this folder by default')
  .addOption(
    new Option('--all', 'show each conversation whole, also where it is as expected')
      .default(false)
      .conflicts(['json', 'format']),
  )
  .option('--uncovered', 'what no tryout touches: commands, arguments, requirements, limits', false)
  .option('--update', 'write what was said into the files, in place of what they expect', false)
  .addOption(
    new Option('--watch', 'play them again whenever a file changes').default(false).conflicts(['json', 'format']),
  )
  .addOption(json().conflicts('format'))
  .addOption(
    new Option('--format <format>', 'how it is written')
      .choices(['text', 'junit'])
      .default('text')
      .conflicts('uncovered'),
  )
  .option('--config <path>', 'the configuration; the taxeon.config.ts in this folder by default')
  .action(async (files: readonly string[], options) => {
    const { tryTryouts } = await import('./try.js');
    process.exitCode = await tryTryouts(files, options);
  });

program
  .command('console')
  .description('a conversation in this terminal with the bot, as anybody of its people')
  .option('--as <person>', 'who types, by id or name; the first by default')
  .option('--in <place>', 'a guild, guild/channel, or direct; the first guild by default')
  .addOption(
    new Option('--surface <surface>', 'how the bot is reached').choices(['text', 'slash', 'console']).default('text'),
  )
  .addOption(new Option('--clock <clock>', 'whose time it is').choices(['real', 'virtual']).default('real'))
  .option('--begins <time>', 'when a virtual clock begins, such as 2026-05-09T13:00:00Z; now by default')
  .option('--config <path>', 'the configuration; the taxeon.config.ts in this folder by default')
  .action(async (options) => {
    const { converse } = await import('./console.js');
    await converse(options);
  });

program
  .command('limits')
  .description('what is counted now in a store, and forgetting it')
  .requiredOption('--store <where>', 'the file that the bot keeps its limits in, or redis://localhost:6379')
  .option('--bot <name>', 'the name of the bot on a Redis server')
  .option('--of <id>', "only what is counted for a person's, a guild's or a channel's id")
  .option('--reset <limit>', 'forget what --of has used of a limit')
  .addOption(json())
  .action(async (options) => {
    const { showLimits } = await import('./limits.js');
    await showLimits(options);
  });

program
  .command('register')
  .description('how the slash commands that a platform holds differ from the declared ones; registers only with --now')
  .addOption(new Option('--now', 'carry it out').default(false).conflicts(['manifest', 'expect']))
  .option('--remove-left-over', 'with --now, also remove what this bot has registered and no longer declares', false)
  .option('--scope <scope...>', 'only these: global, a set of guilds by name, or a guild by id')
  .option('--aliases', 'register aliases as commands of their own', false)
  .addOption(
    new Option('--manifest', 'print what would be registered, and ask the platform nothing')
      .default(false)
      .conflicts(['scope', 'removeLeftOver', 'expect', 'json']),
  )
  .addOption(new Option('--expect <what>', 'how the platform should be').choices(['same']))
  .addOption(json())
  .option('--config <path>', 'the configuration; the taxeon.config.ts in this folder by default')
  .action(async (options) => {
    const { registerCommands } = await import('./register.js');
    await registerCommands(options);
  });

program
  .command('usage')
  .description('what was used how often, from a store')
  .requiredOption('--store <where>', 'the file that the bot keeps its counts in, or redis://localhost:6379')
  .option('--bot <name>', 'the name of the bot on a Redis server')
  .option('--in <guild>', 'only what was used in a guild, by id')
  .option('--since <day>', 'only from a day on, such as 2026-05-09, in UTC')
  .addOption(json().conflicts('format'))
  .addOption(new Option('--format <format>', 'how it is written').choices(['table', 'csv']).default('table'))
  .action(async (options) => {
    const { showUsage } = await import('./usage.js');
    await showUsage(options);
  });

program
  .command('completion')
  .description('what a shell needs to complete this command: eval "$(taxeon completion bash)"')
  .addArgument(new Argument('<shell>', 'bash, zsh or fish').choices(['bash', 'zsh', 'fish']))
  .action(async (shell: Shell) => {
    const { completionScript } = await import('./completion.js');
    console.log(completionScript(program, shell));
  });

/** What Node.js ends with where nothing is under way any more, and the command still waits. */
const UNSETTLED = 13;

process.once('exit', () => {
  if (process.exitCode !== UNSETTLED) return;
  console.error(
    'taxeon: The configuration never answers: what its `open`, an event or a state gives is a promise that does not settle.',
  );
  process.exitCode = 2;
});
try {
  await program.parseAsync();
} catch (error) {
  process.exitCode = exitCodeOf(error);
}

/** The same everywhere. */
function json(): Option {
  return new Option('--json', 'print one JSON object').default(false);
}

function exitCodeOf(error: unknown): number {
  // Commander has told the mistake itself; asking for help is none.
  if (error instanceof CommanderError) return error.exitCode === 0 ? 0 : 2;
  if (!(error instanceof UsageError)) throw error;
  console.error(`taxeon: ${messageOf(error)}`);
  return 2;
}
