/** IRC, over irc-framework. */
export { type IrcOptions, irc } from './irc.js';
export type { Pauses } from './connection.js';
export type { Identity, ModeMeaning } from './roster.js';
