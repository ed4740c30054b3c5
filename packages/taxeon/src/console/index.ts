/** A console in the terminal where the bot runs. */
export { type ConsoleOptions, consolePlatform } from './console.js';
