/** The chat's own side, as far as a page cannot be it: its keys, and the answers that come late. */
import type { VerifyingKey } from '@taxeon/http';
import type { Message } from '../message.js';

/** As many as there are at once while one is changed for another, for as many pages as are open. */
const MOST_KEYS = 20;
const MOST_KEPT = 200;

export class Chat {
  private readonly keys = new Map<string, VerifyingKey>();
  private readonly messages: Message[] = [];
  private readonly listeners = new Set<(message: Message) => void>();
  private said = 0;

  /** The oldest one goes where there are too many. */
  addKey(id: string, key: JsonWebKey): void {
    const [oldest] = this.keys.keys();
    if (this.keys.size >= MOST_KEYS && oldest !== undefined) this.keys.delete(oldest);
    this.keys.set(id, { algorithm: 'ed25519', key });
  }

  keyOf(id: string): VerifyingKey | undefined {
    return this.keys.get(id);
  }

  say(message: Omit<Message, 'number'>): void {
    const numbered = { ...message, number: ++this.said };
    this.messages.push(numbered);
    if (this.messages.length > MOST_KEPT) this.messages.shift();
    for (const listener of this.listeners) listener(numbered);
  }

  /** Tells what comes, until the function that it gives is called. */
  listen(listener: (message: Message) => void): () => void {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  }
}
