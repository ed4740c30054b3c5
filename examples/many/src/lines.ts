/** What the platform and the processes of the bot tell each other. */

/** Something a person types, as the platform hands it to a process. */
export interface Line {
  /** The platform's id of it: the same where it is handed over a second time. */
  readonly id: string;
  readonly person: string;
  readonly place: string;
  readonly text: string;
}

/** What became of it there. */
export interface Told {
  readonly id: string;
  readonly status: string;
  readonly code: string | undefined;
  /** What the bot says, each as plain text. */
  readonly says: readonly string[];
}

/** Those who come to borrow all at once, and the pegs that each of them borrows. */
export const CROWD = 200;
export const PEGS = 3;

export const borrowers = Array.from({ length: CROWD }, (_, n) => ({ id: `borrower-${n}`, name: `Borrower ${n}` }));
export const pegOf = (borrower: number, peg: number): string => `peg ${borrower}-${peg}`;
