/** A real browser that asks nothing of any network by itself. */
import { type Browser, chromium } from 'playwright-core';
import { findProgram } from './programs.js';

const quiet = [
  '--no-sandbox',
  '--disable-gpu',
  '--disable-background-networking',
  '--disable-component-update',
  '--disable-sync',
  '--no-first-run',
];

export function launchChromium(): Promise<Browser> {
  return chromium.launch({ executablePath: findProgram('chromium') ?? 'chromium', args: quiet });
}
