/** For who writes an adapter to a chat system, a store or a registrar: `taxeon/platform`. */

export { allowanceOf, type ParsedAllowance } from './base/allowance.js';
export { checkFields, type FieldForm, type Fields, forms } from './base/fields.js';
export { nearNames } from './base/near.js';
export { echoText, foldName, visibleText, withoutUnseen } from './base/text.js';
export { inTime, TooLate } from './base/thenable.js';
export { after, millisecondsOf, type SteadyClock, steadyClock } from './base/time.js';
export { keepNatives, type Natives } from './commands/natives.js';
export { isPerson, type Person } from './contract/actors.js';
export { lifeOf, sumOf } from './contract/check-value.js';
export type { DeliveryCode } from './contract/codes.js';
export { emptyDirectory, unknownRights } from './contract/empty-directory.js';
export type { Form } from './contract/form.js';
export type { Input } from './contract/input.js';
export type { Reply, Visibility } from './contract/notice.js';
export {
  type Capabilities,
  type Delivered,
  type Directory,
  type InputHandler,
  isPlatformError,
  type Pace,
  type Platform,
  PlatformError,
  type Serving,
} from './contract/platform.js';
export {
  type ArgumentSchema,
  type ArgumentsSchema,
  Conflict,
  type HeldCommand,
  isConflict,
  type RegisteredForm,
  type Registrar,
  type RegistrarLimits,
  type RegistrationScope,
} from './contract/registrar.js';
export type { Denial, Limit, LiveLimit, Renewed, Use, Verdict } from './contract/store.js';
export { paced } from './delivery/pace.js';
export { splitNotice } from './delivery/split.js';
export { type SharedOptions, sharedOptions } from './layer/shared-options.js';
export { slidingWindow } from './limits/window.js';
export { safeLog } from './observe/log.js';
export { type SparseLog, sparseLog } from './observe/sparse-log.js';
export { htmlMarkup, markdownMarkup, plainMarkup, withoutPings } from './replies/markup.js';
