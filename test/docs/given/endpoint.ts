import type { SlashEndpoint } from '@taxeon/http';

export declare const endpoint: SlashEndpoint;
