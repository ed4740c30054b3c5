/** IRC, over irc-framework. */
export { type IrcPlatform, irc, nativeOf } from './irc.js';
export type { IrcMessage } from './message.js';
export type { IrcOptions } from './options.js';
export type { ModeMeaning } from './roster.js';
export type { IrcState } from './state.js';
