/** What stage 2 makes of an input before there is a state. */
import type { Question } from '../asking/question.js';
import type { Input } from '../contract/input.js';
import type { Ignored } from '../contract/outcome.js';
import type { RefusedStop } from './stop.js';

/** Something that was asked for is answered: the input that the answer makes of the one that asked. */
export interface Answering {
  readonly status: 'answering';
  readonly input: Input;
  readonly nameAt: number;
  readonly continued: Continued;
}

/** What was asked, and what was answered to it. */
export interface Continued {
  readonly question: Question;
  readonly said: 'answer' | 'stop' | 'yes' | 'no' | 'undecided';
  /** As it was typed. */
  readonly text: string;
}

/** Where the command's name begins, why nobody is answered, or why the caller is refused; or what is answered. */
export type MatchResult = number | Ignored['because'] | RefusedStop | Answering;
