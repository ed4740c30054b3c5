/** Taxeon: the command layer of a chat bot. */

export * as arg from './arg.js';
export type { Allowance } from './base/allowance.js';
export { parseDuration } from './base/duration.js';
export type { MaybePromise } from './base/thenable.js';
export { type Clock, type Duration, durationInWords, systemClock } from './base/time.js';
export { DeclarationError, type DeclarationProblem } from './catalogue/problem.js';
export type { Arg, ArgOf, CompletionContext, CompletionFrom, GivenOf, NoOptions } from './commands/arg.js';
export { type AroundHook, type Call, type Refusal, type RefusalHook, refuse, type Sayable } from './commands/call.js';
export { type Command, command, type Declaration, type Scope } from './commands/command.js';
export type { Cooldowns } from './commands/cooldowns.js';
export { type CommandOrGroup, type Group, type GroupBuilder, type GroupDeclaration, group } from './commands/group.js';
export { Capped, Misread, misread, ReadAs, type ReadingContext } from './commands/kind.js';
export type { Requirement, RequirementBuilder } from './commands/requirements.js';
export { type Speaking, vocabulary } from './commands/vocabulary.js';
export type { Vocabulary } from './commands/words.js';
export type { Actor, GuildActor, Member, Role, User } from './contract/actors.js';
export type { Attachment } from './contract/attachment.js';
export { type Code, type CodeParameters, hasCode, type MannerOptions } from './contract/codes.js';
export type { LayerEvents } from './contract/events.js';
export type { Expected, Money } from './contract/expectation.js';
export { type Key, keyOf } from './contract/key.js';
export type { Log } from './contract/log.js';
export type { Notice, Tone } from './contract/notice.js';
export type { Outcome, Problem, Status } from './contract/outcome.js';
export type { Channel, Guild, GuildPlace, Place } from './contract/places.js';
export type { AccessRule, GuildSettings, RoleSubject, RuleSubject } from './contract/settings.js';
export type { Store } from './contract/store.js';
export type { Words } from './contract/words.js';
export type { GuildSettingsBook } from './guilds/book.js';
export { SettingsError } from './guilds/errors.js';
export { guildSettings } from './guilds/settings-book.js';
export type { CommandLayer, CommandsOf, HandleOptions, Invocation } from './layer/command-layer.js';
export { createCommandLayer } from './layer/layer.js';
export type { LayerOptions } from './layer/options.js';
export { memoryStore } from './memory/store.js';
export { logWithout } from './observe/log.js';
export { countUsage, type UsageCounter } from './observe/usage.js';
export { helpCommand } from './queries/help/command.js';
export { logCalls } from './queries/log-calls.js';
export { settingsCommands } from './queries/settings-commands.js';
export { english } from './replies/english.js';
export type { Language } from './replies/language.js';
export { type Manner, manners } from './replies/manners.js';
export { messageIn } from './replies/messages.js';
export { plainText } from './replies/notice.js';
export {
  type MessageTexts,
  messages,
  type OwnMessages,
  type ParameterKind,
  type ParameterValues,
  partlyDone,
} from './replies/own-messages.js';
