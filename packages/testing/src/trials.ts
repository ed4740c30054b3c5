/** Proofs for what you write yourself: conformance suites of platforms, of stores and of registrars. */
export { type PlatformProbe, type PlatformTrial, platformTrials } from './platform-trials/index.js';
export {
  type OpenedRegistrar,
  type RegistrarProbe,
  type RegistrarTrial,
  registrarTrials,
} from './registrar-trials/index.js';
export { type StoreProbe, type StoreTrial, storeTrials } from './store-trials/index.js';
