/** For trying a bot: a clock that obeys, faults on demand, and how the `taxeon` command opens it. */
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
