/** A simulated platform for tests, demonstrations and the browser. */

export type { StandInDirectory, StandInGuild } from './directory.js';
export { type Post, standInText } from './posts.js';
export {
  emptyRegistrar,
  type RegistrarState,
  type StandInRegistrarOptions,
  standInRegistrar,
} from './registrar.js';
export { type RegistrarEndpointOptions, registrarEndpoint } from './registrar-endpoint.js';
export { readSlashLine, type SlashCall, writeSlashLine } from './slash-line.js';
export {
  type Doing,
  type Exchange,
  type Filling,
  type ShownForm,
  type SlashInvoking,
  type StandIn,
  type StandInFile,
  type StandInOptions,
  standIn,
  type Typing,
} from './stand-in.js';
export { checkWorld, type World, WorldError } from './world.js';
