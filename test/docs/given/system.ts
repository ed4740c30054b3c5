import type { SlashEndpointOptions } from '@taxeon/http';
import type { Member } from 'taxeon';
import type { Input, Platform } from 'taxeon/platform';

export interface ChatMessage {
  readonly text: string;
}
export declare function inputOf(event: ChatMessage): Input;
export declare function isSigned(request: Request): Promise<boolean>;
export declare const caller: Member;
export declare const rest: Omit<Platform, 'serve'>;
export declare function isFromTheChat(headers: Headers, body: Uint8Array): Promise<boolean>;
export declare const options: SlashEndpointOptions;
