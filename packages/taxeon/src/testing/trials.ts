/** Proofs for what you write yourself: conformance suites of platforms and of stores. */
export { type PlatformProbe, type PlatformTrial, platformTrials } from './platform-trials/index.js';
export { type StoreProbe, type StoreTrial, storeTrials } from './store-trials/index.js';
