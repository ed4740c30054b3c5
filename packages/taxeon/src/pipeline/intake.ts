/** Stage 1: the bot answers no bots, and not itself. */
import { calledName } from '../base/text.js';
import { isPerson } from '../contract/actors.js';
import type { Gate, StageInWords } from './stage.js';

export const intake: Gate = {
  kind: 'gate',
  name: 'intake',
  take: (_course, { caller }) => (isPerson(caller) && caller.isBot === true ? 'bot' : undefined),
  passed: ({ caller }) => `from ${caller.kind === 'console' ? 'the console' : calledName(caller)}`,
};

export const intakeInWords: StageInWords = {
  does: 'leaves out other bots and the bot itself',
  stopsWith: ['ignored'],
};
