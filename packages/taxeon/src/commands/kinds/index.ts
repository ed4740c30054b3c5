/** The kinds of arguments, reached as `arg.integer()` and so on. */
export { choice } from './choice.js';
export { duration } from './duration.js';
export { integer } from './integer.js';
export { member } from './member.js';
export { tail, text } from './text.js';
