/** IRC, over irc-framework. */

export type { Pauses } from './connection.js';
export { type IrcOptions, irc } from './irc.js';
export type { Identity, ModeMeaning } from './roster.js';
export { ircText } from './text.js';
