/** Tryouts: scripted conversations, played, compared with what they expect. */
export { type Speaker, speakerOf } from './speaker.js';
export { type KeptLog, keptLog, type Played, playTryout } from './tryout.js';
export { expectationOf, type LoggedLine, type Mismatch, mismatchInWords } from './tryout-compare.js';
export { checkTryout, type SpokenLine, type Tryout, TryoutError } from './tryout-format.js';
