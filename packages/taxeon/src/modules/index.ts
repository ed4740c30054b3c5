/** Commands in files of their own, loaded all at start and read anew while the bot runs. */
export { type ModulesCommandOptions, modulesCommand } from './command.js';
export { loadModules, type ModuleListed, type Modules, type ModulesOptions, type Reloaded } from './modules.js';
export type { DailyOptions, ModuleContext } from './opening.js';
export { lineThrown, type ModuleProblem, ModulesError, moduleProblemInWords } from './problems.js';
