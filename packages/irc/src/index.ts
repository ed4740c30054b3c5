/** IRC, over irc-framework. */
export type { ChannelState, ChannelStatus, RetryPauses, WantedChannel } from './channels.js';
export { type IrcPlatform, irc, nativeOf } from './irc.js';
export type { IrcMessage } from './message.js';
export type { AnswersBy, IrcOptions, Login } from './options.js';
export type { Identity, ModeMeaning, Presence } from './roster.js';
export type { IrcState } from './state.js';
export { ircLines, type LineStyle } from './text.js';
