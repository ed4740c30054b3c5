/** What runs on the server: each script begins with the time, and a time after which it does nothing any more. */
import { createHash } from 'node:crypto';

export interface Script {
  readonly text: string;
  /** Under which the server knows it. */
  readonly sha: string;
}

/** ARGV begins with the time where it is given, the deadline, and the number of the call: below 0 where it may have come already. */
const PRELUDE = `
local t = ARGV[1]
if t == '' then
  t = redis.call('TIME')
  t = t[1] * 1000000 + t[2]
else
  t = t + 0
end
if ARGV[2] ~= '' and t > ARGV[2] + 0 then return { t, 'late' } end
local ms = (t - t % 1000) / 1000
`;

/** @param helpers what it needs, in front of it */
export function script(helpers: string, body: string): Script {
  const text = PRELUDE + helpers + body;
  return { text, sha: createHash('sha1').update(text).digest('hex') };
}
