import type { PlatformProbe } from '@taxeon/testing/trials';

export declare const probe: PlatformProbe;
