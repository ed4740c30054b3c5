import type { Input, Member, Platform } from 'taxeon';

export interface ChatMessage {
  readonly text: string;
}
export declare function inputOf(event: ChatMessage): Input;
export declare function isSigned(request: Request): Promise<boolean>;
export declare const caller: Member;
export declare const rest: Omit<Platform, 'serve'>;
