/** What a reply says besides the message of a code. */
import { type Sayer, sayer } from './texts.js';

export const replyTexts = {
  'reply.usage': 'Usage: {written}',
  'reply.example': 'Example: {written}',
  /** Closes an invocation whose handler had nothing to say. */
  'reply.done': 'Done.',
  /** Closes what was held for others than those who are answered. */
  'reply.answered': 'Answered.',
  /** Said in place of what is for the caller alone, where it could not be told to them alone. */
  'reply.unreached': 'That is for you alone, and I cannot reach you alone.',
  /** Said once to a person who is not told refusals for a while. */
  'reply.quiet': 'I have said that a few times now, so I leave it at that for {wait}.',
  /** What would make plain text of what was read otherwise. */
  'reply.quoted': 'As plain text, it is written {written}.',
  /** What followed something that could not be read. */
  'reply.unplaced': 'So I could not place “{read}”.',
  'reply.lowered': '“{argument}” is lowered to {to}, the most there may be.',
  /** How what could be read in two ways was read. */
  'reply.read-as': '“{argument}”: “{read}” is read as {as}.',
  /** Ends a reply that was too long to be said whole. */
  'reply.cut': '… The rest is left out.',
  /** Ends the beginning of a long reply that others see: the rest is told to the caller alone. */
  'reply.rest-apart': '… The rest goes to you alone.',
  /** Warns a person for whom so much waits to be said that some of it is left out. */
  'reply.crowded': 'That is more than I can answer: some of it is left out.',
  'reply.aliases': 'Also: {names}',
} as const;

export const sayInReply: Sayer<typeof replyTexts> = sayer(replyTexts);
