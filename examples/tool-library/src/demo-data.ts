/** The demo's people, guilds and tools, from their file. */
import { readFileSync } from 'node:fs';
import { parse } from 'yaml';
import type { DemoData } from './index.js';

export function demoData(): DemoData {
  return parse(readFileSync(new URL('../data/oddmere.yaml', import.meta.url), 'utf8'));
}
