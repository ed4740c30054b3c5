import type { World } from '@taxeon/testing';

export declare const world: World;
