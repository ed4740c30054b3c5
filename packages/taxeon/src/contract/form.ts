/** What a platform asks for in a form of its own, where a slash command lacks something. */

/** One thing to fill in: an argument that is missing or wrong. */
export interface FormField {
  /** The argument's name, under which its answer comes. */
  readonly name: string;
  /** What it is, as it was declared. */
  readonly description: string | undefined;
  /** What is wrong with what was given, or that nothing was; in the caller's language. */
  readonly problem: string | undefined;
  /** A text that would do. */
  readonly example: string | undefined;
}

/** What a platform is asked to show in answer to a slash command. */
export type Form =
  /** To be filled in; the answer is a new slash input with `fills` and `answers`. */
  | {
      readonly id: string;
      readonly asks: 'fields';
      /** What a handler wants to know. */
      readonly question: string | undefined;
      readonly fields: readonly FormField[];
    }
  /** To be decided; the answer has `yes` or `no` under `confirm`. */
  | { readonly id: string; readonly asks: 'confirmation'; readonly question: string };
