/** For trying a bot: a clock that obeys, scripted conversations, and proofs for platforms of one's own. */
export { runUntil, type VirtualClock, virtualClock } from './clock.js';
export {
  defineConfig,
  type RegistrationConfig,
  type Rehearsal,
  type Surroundings,
  type TaxeonConfig,
} from './config.js';
export { type Fault, type FaultOf, injectFaults, type RandomFaults, randomFaults, seeded } from './faults.js';
export { type PlatformProbe, type PlatformTrial, platformTrials } from './platform-trials.js';
export { type StoreProbe, type StoreTrial, storeTrials } from './store-trials.js';
export {
  checkTryout,
  type KeptLog,
  keptLog,
  type LoggedLine,
  type Played,
  playTryout,
  type Tryout,
  TryoutError,
  type TryoutLine,
} from './tryout.js';
