import type { Place } from 'taxeon';
import type { Platform } from 'taxeon/platform';
import type { Library } from './library.js';

export interface Services {
  readonly library: Library;
  readonly board: { readonly place: Place; readonly platform: Platform };
}
