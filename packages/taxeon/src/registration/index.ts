/** What a platform holds of the slash commands, and registering them: `taxeon/registration`. */

export { scopeName } from '../contract/registrar.js';
export { type Manifest, type ManifestEntry, manifestOf, scopesNamed } from '../queries/manifest.js';
export type { RegistrationStep } from './calling.js';
export { type Difference, type DifferenceEntry, differenceTo, type ScopeDifference } from './difference.js';
export { RegistrationError } from './errors.js';
export { type Registered, type RegisterOptions, register } from './register.js';
