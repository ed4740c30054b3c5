/**
 * Looking at a bot from outside, as the `taxeon` command does: `taxeon/queries`. What a bot itself asks for, such as
 * `explain` and `helpFor`, is in `taxeon`.
 */
export { type BotWarning, checkBot } from './check/bot.js';
export {
  type Reference,
  type ReferenceArgument,
  type ReferenceCommand,
  type ReferenceOptions,
  type ReferenceSection,
  referenceOf,
} from './reference.js';
