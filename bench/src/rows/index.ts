/** All rows, by the heading under which they stand. */
import type { Row } from '../measure/row.js';
import { asking } from './asking.js';
import { calls } from './calls.js';
import { catalogue } from './catalogue.js';
import { onHttp } from './http.js';
import { onIrc } from './irc.js';
import { limits } from './limits.js';
import { load } from './load.js';
import { modules } from './modules.js';
import { reading } from './reading.js';
import { onRedis } from './redis.js';
import { start } from './start.js';
import { onTelemetry } from './telemetry.js';
import { tryouts } from './tryouts.js';

export const chapters: readonly { readonly title: string; readonly rows: readonly Row[] }[] = [
  { title: 'Chat and calls', rows: [...calls, ...asking, ...onTelemetry] },
  { title: 'The size of the catalogue', rows: catalogue },
  { title: 'Reading a line', rows: reading },
  { title: 'Limits', rows: [...limits, ...onRedis] },
  { title: 'Under load', rows: [...load, ...onIrc, ...onHttp] },
  { title: 'Starting', rows: [...start, ...modules] },
  { title: 'Tryouts', rows: tryouts },
];
