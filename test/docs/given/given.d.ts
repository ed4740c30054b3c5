/** What the pages call by the same names throughout, where a block does not make it itself. */

import type { IrcPlatform } from '@taxeon/irc';
import type { Rehearsal, StandIn, VirtualClock, World } from '@taxeon/testing';
import type { Tryout } from '@taxeon/testing/tryouts';
import type { Call, Command, CommandLayer, Guild, GuildPlace, Log, Member, Store } from 'taxeon';
import type { Modules } from 'taxeon/modules';
import type { Input, Registrar } from 'taxeon/platform';
import type { openBot as opensBot } from './bot.js';
import type { library as toolLibrary } from './library.js';

declare global {
  const layer: CommandLayer;
  const commands: readonly Command[];
  const borrow: Command;
  const shelf: Command;
  const fine: Command;
  const list: Command;
  const remind: Command;
  const run: () => string;
  const openBot: typeof opensBot;
  const library: typeof toolLibrary;
  const modules: Modules;
  const folder: URL;
  const platform: StandIn;
  const network: IrcPlatform;
  const registrar: Registrar;
  const world: World;
  const rehearsal: Rehearsal;
  const tryout: Tryout;
  const input: Input;
  const store: Store;
  const clock: VirtualClock;
  const log: Log;
  const call: Call;
  const guild: Guild;
  const place: GuildPlace;
  const ines: Member;
  const wren: Member;
  const text: string;
}
