import type { PlatformProbe } from 'taxeon/trials';

export declare const probe: PlatformProbe;
