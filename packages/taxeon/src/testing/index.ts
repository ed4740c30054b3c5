/** For trying a bot: a clock that obeys, faults on demand, and scripted conversations. */
export { runFor, runUntil, type VirtualClock, virtualClock } from './clock.js';
export {
  defineConfig,
  type FolderConfig,
  type OpeningConfig,
  type RegistrationConfig,
  type Rehearsal,
  type Surroundings,
  type TaxeonConfig,
} from './config.js';
export { type Fault, type FaultOf, injectFaults, type RandomFaults, randomFaults, seeded } from './faults.js';
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
