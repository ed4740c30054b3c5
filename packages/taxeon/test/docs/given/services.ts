import type { Place, Platform } from 'taxeon';
import type { Library } from './library.js';

export interface Services {
  readonly library: Library;
  readonly board: { readonly place: Place; readonly platform: Platform };
}
