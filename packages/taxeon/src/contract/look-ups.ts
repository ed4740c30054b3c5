/** What looks nothing up, by which is seen that a directory lacks something. */

/** Of a directory that knows nobody and nothing. */
export const nobody = () => undefined;
export const none = () => [];
