/** The handlers that are waited for, until the layer ends. */

/** Ends the wait for a handler. */
type GiveUp = () => void;

export class Handlers {
  readonly #running = new Set<GiveUp>();
  #isOver = false;
  /** How many were given up since the layer ends. */
  givenUp = 0;

  /** Once the layer ends, it is given up at once. */
  add(giveUp: GiveUp): void {
    this.#running.add(giveUp);
    if (!this.#isOver) return;
    this.givenUp += 1;
    giveUp();
  }

  delete(giveUp: GiveUp): void {
    this.#running.delete(giveUp);
  }

  /** From now on no handler is waited for. */
  giveUpAll(): void {
    this.#isOver = true;
    for (const giveUp of [...this.#running]) this.add(giveUp);
  }
}
