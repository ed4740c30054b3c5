import type { World } from 'taxeon/stand-in';

export declare const world: World;
