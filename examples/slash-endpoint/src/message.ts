/** What stands in the chat besides the answers that posts have at once. */
export interface Message {
  readonly number: number;
  /** The call that it answers late; absent where it answers nothing. */
  readonly call?: string;
  /** Who alone sees it. */
  readonly only?: string;
  readonly text: string;
  readonly tone?: string;
}
