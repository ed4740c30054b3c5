/** Drives the IRC adapter from the other side: two people in a channel of a real server. */
import { irc } from 'taxeon/irc';
import type { PlatformProbe } from 'taxeon/trials';
import type { IrcPerson } from './ngircd.js';
import { silentLog } from './oddmere.js';

export async function ircProbe(
  server: () => { readonly port: number },
  person: (nick: string, channel: string) => Promise<IrcPerson>,
  channel: string,
): Promise<PlatformProbe> {
  const wren = await person('Wren', channel);
  const ines = await person('Ines', channel);
  /** Without whom it is for, and without what makes a heading bold. */
  const bare = (line: string) => line.replace(/^(?:Wren|Ines): |^· |\x02/g, '');
  return {
    platform: irc({
      host: '127.0.0.1',
      port: server().port,
      nick: 'Mallet',
      channels: [channel],
      identity: 'user@host',
      pace: { lines: 5, perMs: 500 },
      log: silentLog,
    }),
    somebody: { name: 'Wren' },
    type: async (line) => wren.type(line),
    heard: async () => bare(await ines.heard('Mallet', channel)),
    other: { name: 'Ines', type: async (line) => ines.type(line) },
    whisper: async (line) => wren.whisper('Mallet', line),
    heardAlone: async () => bare(await wren.heard('Mallet', 'Wren')),
    addressing: 'Mallet: ',
  };
}
