/** Proofs for what you write yourself: conformance suites of platforms, of stores and of registrars. */
export { type PlatformProbe, platformTrials } from './platform-trials/index.js';
export { type OpenedRegistrar, registrarTrials } from './registrar-trials/index.js';
export { storeTrials } from './store-trials/index.js';
export type { Trial } from './trial.js';
