/** What trials are made of. */

/** One promise, put to what a probe gives. */
export interface Trial<Probe> {
  readonly name: string;
  /**
   * Rejects where the promise is not held.
   *
   * @returns why it was skipped: what is tried does not claim it
   */
  run(probe: Probe): Promise<string | undefined>;
}
