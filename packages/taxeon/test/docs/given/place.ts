import type { OpenedRegistrar } from 'taxeon/trials';

export declare function openPlace(): OpenedRegistrar;
