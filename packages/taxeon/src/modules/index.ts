/** Commands in files of their own, loaded all at start and read anew while the bot runs. */
export { modulesCommand } from './command.js';
export { loadModules, type Modules } from './modules.js';
export type { ModuleContext } from './opening.js';
export { lineThrown, type ModuleProblem, ModulesError, moduleProblemInWords } from './problems.js';
