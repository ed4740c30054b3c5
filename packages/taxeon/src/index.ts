/** Taxeon: the command layer of a chat bot. */

export * as arg from './arg.js';
export type { Allowance } from './base/allowance.js';
export { parseDuration } from './base/duration.js';
export type { MaybePromise } from './base/thenable.js';
export { type Clock, type Duration, type DurationText, durationInWords, systemClock } from './base/time.js';
export { DeclarationError, type DeclarationProblem } from './catalogue/problem.js';
export type {
  Arg,
  ArgMap,
  ArgOf,
  CompletionContext,
  CompletionFrom,
  DefaultContext,
  DefaultFrom,
  GivenOf,
  MemberNames,
  NoOptions,
  NoSuchOption,
  Offered,
  ValuesOf,
  WhenMissing,
} from './commands/arg.js';
export {
  type Answer,
  type AroundHook,
  type Blame,
  type Call,
  type Refusal,
  type RefusalHook,
  type RefusalTold,
  refuse,
  type Said,
  type Sayable,
  type Whereabouts,
} from './commands/call.js';
export {
  type AllLocalized,
  type Command,
  command,
  type Declaration,
  type Localized,
  type Scope,
} from './commands/command.js';
export type { CooldownOptions, Cooldowns, CountedBy, OutagePolicy, RunningLimits } from './commands/cooldowns.js';
export { type CommandOrGroup, type Group, type GroupBuilder, type GroupDeclaration, group } from './commands/group.js';
export { Capped, Misread, misread, ReadAs, type ReadingContext } from './commands/kind.js';
export type { CustomKind } from './commands/kinds/custom.js';
export type {
  ConditionContext,
  ConditionResult,
  ListOfRequirements,
  RankOptions,
  Requirement,
  RequirementBuilder,
} from './commands/requirements.js';
export { type Speaking, vocabulary, type WordsIn } from './commands/vocabulary.js';
export type { AnyWords, Vocabulary } from './commands/words.js';
export type { Actor, GuildActor, Member, Role, User } from './contract/actors.js';
export type { Attachment } from './contract/attachment.js';
export {
  type Code,
  type CodeParameters,
  type FailedCode,
  hasCode,
  type InvalidCode,
  type MannerOptions,
  type Manners,
  type MessageOverrides,
  type RefusedCode,
} from './contract/codes.js';
export type { EventName, LayerEvents } from './contract/events.js';
export type { Amount, Expectation, Expected, ExpectedValue, Money } from './contract/expectation.js';
export { type Key, keyOf } from './contract/key.js';
export type { Log } from './contract/log.js';
export type { Audience, Notice, Saying, Tone } from './contract/notice.js';
export type {
  Asked,
  Completed,
  Delivery,
  Failed,
  Ignored,
  Invalid,
  Outcome,
  Problem,
  Refused,
  Status,
  Waiting,
} from './contract/outcome.js';
export type { Channel, Guild, GuildPlace, Place } from './contract/places.js';
export type { AccessRule, GuildSettings, RoleSubject, RuleSubject } from './contract/settings.js';
export type { Store } from './contract/store.js';
export type { Words } from './contract/words.js';
export type { GuildSettingsBook } from './guilds/book.js';
export { SettingsError } from './guilds/errors.js';
export { guildSettings } from './guilds/settings-book.js';
export type {
  Closed,
  CloseOptions,
  CommandLayer,
  CommandsOf,
  HandleOptions,
  Invocation,
} from './layer/command-layer.js';
export { createCommandLayer } from './layer/layer.js';
export type { LayerOptions } from './layer/options.js';
export { memoryStore } from './memory/store.js';
export { type LeftOut, logWithout } from './observe/log.js';
export { countUsage } from './observe/usage.js';
export type { UnknownHook } from './pipeline/resolve.js';
export { type HelpCommandOptions, helpCommand } from './queries/help/command.js';
export { type CallLogOptions, logCalls } from './queries/log-calls.js';
export { type SettingsCommandsOptions, settingsCommands } from './queries/settings-commands.js';
export { english } from './replies/english.js';
export type { Language } from './replies/language.js';
export { type Manner, manners } from './replies/manners.js';
export { messageIn } from './replies/messages.js';
export { plainText } from './replies/notice.js';
export {
  type MessageShapes,
  type MessageText,
  type MessageTexts,
  messages,
  type OwnMessages,
  type ParameterKind,
  type ParameterValues,
  partial,
} from './replies/own-messages.js';
