/** A simulated platform for tests, demonstrations and the browser. */
export {
  createStandIn,
  type Doing,
  type Exchange,
  type Post,
  type SlashInvoking,
  type StandIn,
  type StandInOptions,
  type Typing,
} from './stand-in.js';
export { checkWorld, type World, WorldError } from './world.js';
