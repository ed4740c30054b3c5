/** The client, which is loaded when the bot serves. */
import type framework from 'irc-framework';
import { lackingPackage } from '../../base/optional.js';

export type IrcClient = typeof framework.Client;

/** @throws TypeError where it is not installed */
export async function loadClient(): Promise<IrcClient> {
  try {
    return (await import('irc-framework')).default.Client;
  } catch (error) {
    throw lackingPackage(error, 'irc-framework', 'taxeon/irc');
  }
}
