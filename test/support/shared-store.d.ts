import type { Store } from 'taxeon';

export function openShared(name: string, patience?: '1s' | '2s' | '5s'): Store;
