/** Listening to what a server sends: what has no form that is known is logged, and takes nothing down. */
import type { Client } from 'irc-framework';
import type { Log } from '../../contract/log.js';

export type Listen = <Event>(event: string, heard: (event: Event) => unknown) => void;

export function listenTo(client: Client, log: Log): Listen {
  return (event, heard) => {
    client.on(event, (told) => {
      try {
        heard(told);
      } catch (error) {
        log.error({ event, error }, 'An IRC server sent what could not be taken');
      }
    });
  };
}
