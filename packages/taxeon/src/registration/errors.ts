/** Something that the platform would not take. */
export interface RegistrationProblem {
  readonly scope: string;
  readonly command: string;
  readonly field: string;
  readonly problem: string;
}

/** Why nothing, or not all, was registered. What was is kept: the next run goes on from there. */
export class RegistrationError extends Error {
  override readonly name = 'RegistrationError';

  constructor(
    message: string,
    readonly problems: readonly RegistrationProblem[] = [],
    options?: ErrorOptions,
  ) {
    super(message, options);
  }
}
