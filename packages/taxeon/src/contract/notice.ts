/** What is said back. */

export type Tone = 'success' | 'partial' | 'problem' | 'info';

/** A structured reply, rendered by each platform in its own form. */
export interface Notice {
  readonly tone?: Tone;
  readonly heading?: string;
  readonly body: string;
  readonly details?: readonly string[];
}

export type Visibility = 'everyone' | 'caller';

/** A notice on its way to a place. */
export interface Reply {
  readonly notice: Notice;
  readonly visibleTo: Visibility;
}
