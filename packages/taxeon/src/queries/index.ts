/** Looking at a bot from outside, which runs nothing: `taxeon/queries`. */

export type { BotNeed } from '../catalogue/needs.js';
export { problemInWords } from '../catalogue/problem.js';
export type { ReadToken, StageName, Trace, TracedStage } from '../contract/trace.js';
export { liveUsesIn, partsOfKey } from '../limits/live.js';
export type { UsageCount } from '../observe/usage.js';
export { stageNames } from '../pipeline/stages.js';
export type { LimitTold } from '../replies/help.js';
export { type AccessCell, type AccessRow, type AccessTable, accessTableOf } from './access-table.js';
export { type BotWarning, checkBot } from './check/bot.js';
export { complete } from './completion/ask.js';
export type { Suggestion } from './completion/offered.js';
export { type Coverage, coverage, type Untried } from './coverage.js';
export { type Explanation, explain } from './explain.js';
export { type Forgotten, forgetPerson } from './forget.js';
export type { Help } from './help/data.js';
export { helpNotice, helpOf } from './help/for.js';
export { lineFor } from './line-for.js';
export { needsOf } from './needs.js';
export { type Reference, type ReferenceCommand, referenceOf } from './reference.js';
export { usageIn, usageOf } from './usage-counts.js';
export { giveUseBack, liveUsesOf, resetUses } from './uses.js';
