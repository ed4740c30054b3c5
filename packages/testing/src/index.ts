/** For trying a bot: a simulated platform, a clock that obeys, faults on demand, and how the `taxeon` command opens it. */
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
export { type Fault, type FaultOf, injectFaults, randomFaults, seeded } from './faults.js';
export type { StandInGuild } from './stand-in/directory.js';
export type { Post } from './stand-in/posts.js';
export {
  emptyRegistrar,
  type RegistrarState,
  type StandInRegistrarOptions,
  standInRegistrar,
} from './stand-in/registrar.js';
export { registrarEndpoint } from './stand-in/registrar-endpoint.js';
export { readSlashLine, type SlashCall, writeSlashLine } from './stand-in/slash-line.js';
export { type Exchange, type StandIn, standIn } from './stand-in/stand-in.js';
export { checkWorld, type World, WorldError } from './stand-in/world.js';
