/** IRC, over irc-framework. */

export type { Pauses } from './channels.js';
export type { AnswersBy, IrcMessage } from './connection.js';
export { type IrcOptions, irc, nativeOf } from './irc.js';
export type { Identity, ModeMeaning, Presence } from './roster.js';
export { ircText } from './text.js';
