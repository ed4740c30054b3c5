/** The event of something that was said, or was to be. */
import type { Reply } from '../contract/notice.js';
import type { Delivery } from '../contract/outcome.js';
import { plainText } from '../replies/notice.js';
import type { Run } from './run-object.js';

export function tellReplied(run: Run, reply: Reply | undefined, delivery: Delivery | undefined): void {
  const { events } = run.services;
  if (reply === undefined || !events.hearing.replied) return;
  const { input, platform, found } = run;
  events.tell('replied', {
    input,
    platform: platform?.name,
    command: found?.name,
    text: plainText(reply.notice),
    visibleTo: reply.visibleTo,
    delivery,
  });
}
