/** The handlers that are waited for, until the layer ends. */

/** Ends the wait for a handler. */
type GiveUp = () => void;

export interface Handlers {
  /** How many were given up since the layer ends. */
  readonly givenUp: number;
  /** Once the layer ends, it is given up at once. */
  add(giveUp: GiveUp): void;
  delete(giveUp: GiveUp): void;
  /** From now on no handler is waited for. */
  giveUpAll(): void;
}

export function noHandlers(): Handlers {
  const running = new Set<GiveUp>();
  let isOver = false;
  const handlers = {
    givenUp: 0,
    add(giveUp: GiveUp) {
      running.add(giveUp);
      if (!isOver) return;
      handlers.givenUp += 1;
      giveUp();
    },
    delete: (giveUp: GiveUp) => void running.delete(giveUp),
    giveUpAll() {
      isOver = true;
      for (const giveUp of [...running]) handlers.add(giveUp);
    },
  };
  return handlers;
}
