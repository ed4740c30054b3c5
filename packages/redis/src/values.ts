/** Values with versions on a Redis server. */

import type { Store } from 'taxeon';
import { lifeOf, sumOf } from 'taxeon/platform';
import type { Calls } from './calls.js';
import { forText } from './escape.js';
import type { Keys } from './keys.js';
import { scan } from './scan.js';
import { script } from './scripts.js';

/** Beyond that a server does not count; a thousand years. */
const LONGEST_LIFE_MS = 3.2e13;

export function valuesOn(
  calls: Calls,
  keys: Keys,
  marginMs: number,
): Pick<Store, 'read' | 'compareAndSet' | 'increment' | 'entries'> {
  const margin = String(marginMs);

  async function entriesOf(names: readonly string[]) {
    const now = calls.now();
    const found = await Promise.all(names.map((name) => calls.send(name, ['GET', name])));
    return found.flatMap((raw, index) => {
      const [, goneAt, value] = /^\d+ (\d+) \d+ [\d,]*\n([\s\S]*)$/.exec(String(raw ?? '')) ?? [];
      const isGone = goneAt !== '0' && Number(goneAt) <= now;
      return value === undefined || isGone
        ? []
        : [[keys.keyOf(names[index] as string), forText.unescaped(value)] as const];
    });
  }

  return {
    async read(key) {
      const [, version, value] = await calls.run(readScript, [keys.value(key)], 0, [margin]);
      return version === undefined ? undefined : { value: forText.unescaped(String(value)), version: Number(version) };
    },
    async compareAndSet(key, expected, value, expiresInMs) {
      const lifeMs = Math.min(lifeOf(expiresInMs) ?? 0, LONGEST_LIFE_MS);
      const given = [margin, String(expected), String(Math.ceil(lifeMs)), forText.escaped(value)];
      const [, isWritten] = await calls.run(compareAndSetScript, [keys.value(key)], calls.nextNonce(), given);
      return isWritten === 1;
    },
    async increment(key, by) {
      sumOf(undefined, by);
      const [, sum] = await calls.run(incrementScript, [keys.value(key)], calls.nextNonce(), [margin, String(by)]);
      return Number(sum);
    },
    async entries(prefix) {
      const all = new Map<string, string>();
      for await (const names of scan(calls, keys.valuesBeginning(prefix))) {
        for (const [key, value] of await entriesOf(names)) all.set(key, value);
      }
      return [...all];
    },
  };
}

// Scripts about values. In front of a text stand its version, when it is gone, for how long it was to live, and the
// numbers of the last calls that wrote it.
const VALUES = `
local key = KEYS[1]
local nonce = string.format('%.0f', math.abs(ARGV[3]))

-- Version, when it is gone, for how long it was to live, who wrote it, and the text; also of what is gone already.
local function found()
  local all = redis.call('GET', key)
  if not all then return nil end
  local version, gone, life, by, from = string.match(all, '^(%d+) (%d+) (%d+) ([%d,]*)\\n()')
  if not version then error('DAMAGED') end
  return { version = tonumber(version), gone = tonumber(gone), life = tonumber(life), by = by, text = string.sub(all, from) }
end

-- A value that is to live longer than it was given was written by a clock that was ahead: its time begins now.
local function live(one, margin)
  if one == nil or one.gone == 0 then return one end
  if one.gone > ms + one.life then
    one.gone = ms + one.life
    redis.call('SET', key, string.format('%.0f %.0f %.0f %s\\n', one.version, one.gone, one.life, one.by) .. one.text, 'PX', one.life + margin)
  end
  if one.gone > ms then return one end
  return nil
end

local function isOurs(one)
  return one ~= nil and string.find(',' .. one.by .. ',', ',' .. nonce .. ',', 1, true) ~= nil
end

-- A version never comes again, whatever becomes of the key: it is the time, and later than any before.
local function put(before, life, by, text, margin)
  local version = t
  if before ~= nil then version = math.max(t, before.version + 1) end
  local gone = 0
  if life > 0 then gone = ms + life end
  local all = string.format('%.0f %.0f %.0f %s\\n', version, gone, life, by) .. text
  if life > 0 then redis.call('SET', key, all, 'PX', life + margin) else redis.call('SET', key, all) end
end
`;

/** ARGV[4] is the margin. */
const readScript = script(
  VALUES,
  `
local one = live(found(), tonumber(ARGV[4]))
if one == nil then return { t } end
return { t, one.version, one.text }
`,
);

/** The margin, the version that is expected, for how long (0 for ever), and the text. */
const compareAndSetScript = script(
  VALUES,
  `
local margin = tonumber(ARGV[4])
local before = found()
if isOurs(before) then return { t, 1 } end
local now = live(before, margin)
local version = 0
if now ~= nil then version = now.version end
if version ~= tonumber(ARGV[5]) then return { t, 0 } end
put(before, tonumber(ARGV[6]), nonce, ARGV[7], margin)
return { t, 1 }
`,
);

/** The margin, and how much. Who wrote last is kept for eight calls, of which one may come again. */
const incrementScript = script(
  VALUES,
  `
local before = found()
local now = live(before, tonumber(ARGV[4]))
if isOurs(now) then return { t, now.text } end
local sum, by = 0, ''
if now ~= nil then
  sum = tonumber(now.text)
  if sum == nil then error('NONUMBER') end
  by = now.by
end
sum = sum + tonumber(ARGV[5])
local _, count = string.gsub(by, ',', '')
if count >= 7 then by = string.match(by, ',(.*)') end
if by ~= '' then by = by .. ',' end
local text = string.format('%.17g', sum)
put(before, 0, by .. nonce, text, 0)
return { t, text }
`,
);
