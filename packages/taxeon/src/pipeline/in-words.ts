/** What each stage does and stops with, for the table in docs/architecture.md. */
import type { StageName } from '../contract/trace.js';
import { accessInWords } from './access.js';
import { intakeInWords } from './intake.js';
import { limitsInWords } from './limits.js';
import { matchInWords } from './match.js';
import { reachInWords } from './reach.js';
import { readInWords } from './read.js';
import { replyInWords } from './reply.js';
import { resolveInWords } from './resolve.js';
import { runInWords } from './run.js';
import { settleInWords } from './settle.js';
import type { StageInWords } from './stage.js';
import { standingInWords } from './standing.js';

export const inWords: Readonly<Record<StageName, StageInWords>> = {
  intake: intakeInWords,
  match: matchInWords,
  resolve: resolveInWords,
  reach: reachInWords,
  access: accessInWords,
  read: readInWords,
  standing: standingInWords,
  limits: limitsInWords,
  run: runInWords,
  reply: replyInWords,
  settle: settleInWords,
};
