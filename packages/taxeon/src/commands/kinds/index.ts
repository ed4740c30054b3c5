/** The kinds of arguments, reached as `arg.integer()` and so on. */
export { boolean } from './boolean.js';
export { choice } from './choice.js';
export { custom, schema } from './custom.js';
export { datetime } from './datetime.js';
export { duration } from './duration.js';
export { integer } from './integer.js';
export { money } from './money.js';
export { number } from './number.js';
export { member, user } from './people.js';
export { channel, role } from './places.js';
export { emoji, pattern, url } from './strings.js';
export { tail, text } from './text.js';
export { until } from './until.js';
