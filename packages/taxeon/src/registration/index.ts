/** What a platform holds of the slash commands, and registering them: `taxeon/registration`. */

export { scopeName } from '../contract/registrar.js';
export {
  type Manifest,
  type ManifestEntry,
  type ManifestOptions,
  manifestOf,
  scopesNamed,
} from '../queries/manifest.js';
export type { RegistrationStep } from './calling.js';
export type { LeftToDo } from './change.js';
export {
  type Difference,
  type DifferenceEntry,
  type DifferenceOptions,
  differenceTo,
  type FieldDifference,
  type ScopeDifference,
} from './difference.js';
export { RegistrationError, type RegistrationProblem } from './errors.js';
export { type Registered, type RegisterOptions, register } from './register.js';
