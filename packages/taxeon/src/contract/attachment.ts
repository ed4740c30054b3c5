/** A file that came with a message or a slash command. Everything in it is a stranger's, its name and type too. */
export interface Attachment {
  readonly id: string;
  /** As it was called where it came from; no path that is safe to write to. */
  readonly name: string;
  /** In bytes, as the platform says. */
  readonly size: number;
  /** Its media type as the platform says, `image/png`; empty where it does not. What it holds may be something else. */
  readonly type: string;
  /**
   * What it holds. Of a handler's attachment never more than `size`, and not waited for longer than the platform may take.
   *
   * @throws PlatformError where it is not to be had.
   */
  read(): Promise<Uint8Array>;
}

/** In UTF-16 code units. */
const LONGEST = 512;

/** Whether what an adapter gives has the form of one. */
export function isAttachment(value: unknown): value is Attachment {
  const { id, name, size, type, read } = (value ?? {}) as Partial<Attachment>;
  const isTold = [id, name, type].every((text) => typeof text === 'string' && text.length <= LONGEST);
  return isTold && Number.isSafeInteger(size) && (size as number) >= 0 && typeof read === 'function';
}
