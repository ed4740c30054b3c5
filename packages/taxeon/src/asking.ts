/** Asking in the chat: for arguments that are missing, and whether a person means it. */
export { type AskingOptions, askInChat } from './pipeline/asking/asking.js';
export type { AskingFor } from './pipeline/asking/open-question.js';
