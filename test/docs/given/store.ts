import type { Clock, Store } from 'taxeon';

export declare function myStore(options: { readonly clock: Clock }): Store;
