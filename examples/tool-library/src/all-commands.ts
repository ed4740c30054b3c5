/** All of Mallet's commands by name, for where no folder can be read: in a browser. */
import type { CommandOrGroup } from 'taxeon';
import announce from './commands/for-stewards/announce.js';
import fine from './commands/for-stewards/fine.js';
import induct from './commands/for-stewards/induct.js';
import overdue from './commands/for-stewards/overdue.js';
import stocktake from './commands/for-stewards/stocktake.js';
import borrow from './commands/lending/borrow.js';
import reserve from './commands/lending/reserve.js';
import giveBack from './commands/lending/return.js';
import shelf from './commands/lending/shelf.js';
import type { Services } from './services.js';

export function allCommands(services: Services): readonly CommandOrGroup[] {
  return [
    borrow(services),
    giveBack(services),
    reserve(services),
    shelf(services),
    induct(services),
    fine(services),
    announce(),
    stocktake(services),
    overdue(services).commands,
  ];
}
