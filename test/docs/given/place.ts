import type { OpenedRegistrar } from '@taxeon/testing/trials';

export declare function openPlace(): OpenedRegistrar;
