/** Taxeon: the command layer of a chat bot. */

export type { ActorRights } from './access/context.js';
export * as arg from './arg.js';
export type { Allowance } from './base/allowance.js';
export { parseDuration } from './base/duration.js';
export { echo, visible, withoutUnseen } from './base/text.js';
export type { MaybePromise } from './base/thenable.js';
export {
  type Clock,
  type Duration,
  type DurationText,
  durationInWords,
  systemClock,
} from './base/time.js';
export type { BotNeed } from './catalogue/needs.js';
export { DeclarationError, type DeclarationProblem, problemInWords } from './catalogue/problem.js';
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
  type CallOrigin,
  type LayerCode,
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
  type HandlerResult,
  type Localized,
  type Scope,
} from './commands/command.js';
export type {
  CooldownOptions,
  Cooldowns,
  CountedBy,
  OutagePolicy,
  RunningLimits,
} from './commands/cooldowns.js';
export { type CommandOrGroup, type Group, type GroupBuilder, type GroupDeclaration, group } from './commands/group.js';
export {
  Capped,
  type Kind,
  type KindTraits,
  type ListItem,
  Misread,
  misread,
  ReadAs,
  type ReadingContext,
} from './commands/kind.js';
export type { CustomKind } from './commands/kinds/custom.js';
export { keepNatives, type Natives } from './commands/natives.js';
export type {
  ConditionContext,
  ConditionResult,
  ListOfRequirements,
  RankOptions,
  Requirement,
  RequirementBuilder,
  RequirementTraits,
  RequirementWords,
} from './commands/requirements.js';
export { type Speaking, vocabulary, type WordsIn } from './commands/vocabulary.js';
export type { Worded } from './commands/worded.js';
export type { AnyWords, Vocabulary } from './commands/words.js';
export type { Actor, ConsoleActor, GuildActor, Member, Person, ProgramActor, Role, User } from './contract/actors.js';
export type { Attachment } from './contract/attachment.js';
export {
  type Code,
  type CodeParameters,
  type DeliveryCode,
  type FailedCode,
  hasCode,
  type InvalidCode,
  type MannerOptions,
  type Manners,
  type MessageOverrides,
  type RefusedCode,
} from './contract/codes.js';
export { emptyDirectory, unknownRights } from './contract/empty-directory.js';
export type { CommandlessCode, EventName, LayerEvents } from './contract/events.js';
export type { Amount, Expectation, Expected, ExpectedValue, Money } from './contract/expectation.js';
export type { Form, FormField } from './contract/form.js';
export type { Input, Surface } from './contract/input.js';
export { type Key, keyOf } from './contract/key.js';
export type { Log } from './contract/log.js';
export type { Audience, Notice, Reply, Saying, Tone, Visibility } from './contract/notice.js';
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
export type { Channel, ConsolePlace, DirectPlace, Guild, GuildPlace, Place } from './contract/places.js';
export {
  type Capabilities,
  type Delivered,
  type Directory,
  type InputHandler,
  isPlatformError,
  type Pace,
  type Platform,
  PlatformError,
  type PlatformErrorOptions,
  type Serving,
  type Turn,
} from './contract/platform.js';
export {
  type ArgumentSchema,
  type ArgumentsSchema,
  Conflict,
  type HeldCommand,
  type RegisteredForm,
  type Registrar,
  type RegistrarLimits,
  type RegistrationScope,
  scopeName,
} from './contract/registrar.js';
export type { AccessRule, GuildSettings, RoleSubject, RuleSubject } from './contract/settings.js';
export type { Span } from './contract/span.js';
export type { Denial, Grant, Limit, LiveLimit, Store, Verdict, Versioned } from './contract/store.js';
export type { ReadToken, StageName, Trace, TracedStage } from './contract/trace.js';
export type { Words } from './contract/words.js';
export { splitNotice } from './delivery/split.js';
export type { GuildSettingsBook } from './guilds/book.js';
export { SettingsError, UnreadSettings } from './guilds/errors.js';
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
export { liveOf, partsOfKey } from './limits/live.js';
export { memoryStore } from './memory/store.js';
export { type LeftOut, logWithout } from './observe/log.js';
export { countUsage, type UsageCount, type UsageServices } from './observe/usage.js';
export type { UnknownHook } from './pipeline/resolve.js';
export { stageNames } from './pipeline/stages.js';
export { type AccessCell, type AccessRow, type AccessTable, accessTable } from './queries/access-table.js';
export { type CompleteOptions, complete } from './queries/completion/ask.js';
export type { Suggestion } from './queries/completion/complete.js';
export { type Explanation, explain } from './queries/explain.js';
export { type Forgotten, forget } from './queries/forget.js';
export { type HelpCommandOptions, helpCommand } from './queries/help/command.js';
export type {
  CommandHelp,
  GroupHelp,
  Help,
  HelpArgument,
  HelpIndex,
  HelpLine,
  HelpSection,
  NothingFound,
} from './queries/help/data.js';
export { helpData, helpFor } from './queries/help/for.js';
export { lineFor } from './queries/line-for.js';
export { type CallLogOptions, logCalls } from './queries/log-calls.js';
export {
  type Manifest,
  type ManifestEntry,
  type ManifestOptions,
  manifestOf,
  scopesNamed,
} from './queries/manifest.js';
export { needs } from './queries/needs.js';
export { openQuestions } from './queries/open-questions.js';
export { type SettingsCommandsOptions, settingsCommands } from './queries/settings-commands.js';
export { readUsage, usageCounts } from './queries/usage-counts.js';
export { giveUseBack, liveUses, resetUses } from './queries/uses.js';
export type { RegistrationStep } from './registration/calling.js';
export type { LeftToDo } from './registration/change.js';
export {
  type Difference,
  type DifferenceEntry,
  type DifferenceOptions,
  differenceTo,
  type FieldDifference,
  type ScopeDifference,
} from './registration/difference.js';
export { RegistrationError, type RegistrationProblem } from './registration/errors.js';
export { type Registered, type RegisterOptions, register } from './registration/register.js';
export { english } from './replies/english.js';
export type { LimitTold } from './replies/help.js';
export type { Language } from './replies/language.js';
export { type Manner, manners } from './replies/manners.js';
export { htmlMarkup, markdownMarkup, plainMarkup, withoutPings } from './replies/markup.js';
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
