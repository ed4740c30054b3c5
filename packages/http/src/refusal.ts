/** A post that is not taken. */

/** The status is for the system that posted; why, for the bot's log alone. */
export class PostRefusal {
  constructor(
    readonly status: number,
    readonly why: string,
    readonly headers: Readonly<Record<string, string>> = {},
    /** For each of which the log has a line a minute: of what was posted it holds nothing. */
    readonly reason = String(status),
  ) {}
}

/** After how many seconds a system may post again what was not taken for want of room or of the store. */
export const later = { 'retry-after': '5' } as const;
/** What of it was not read is not waited for. */
export const closing = { connection: 'close' } as const;
