/**
 * What runs on the server. Each script begins with the time, after which it does nothing any more, and a number of its
 * call: asked a second time, it gives what it gave the first.
 *
 * A key of uses is packed: the window in milliseconds and a colon, then for each use its time (7 bytes, in microseconds
 * since 1970) and the number of the call that took it (5 bytes). A value has its version, when it is gone, for how long
 * it was to live and the numbers of the last calls that wrote it in front, as text.
 */
import { createHash } from 'node:crypto';

export interface Script {
  readonly text: string;
  /** Under which the server knows it. */
  readonly sha: string;
}

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

const USES = `
local ENTRY = 12
local nonce = struct.pack('>I5', math.abs(ARGV[3]))

local function time(body, n)
  return (struct.unpack('>I7', body, (n - 1) * ENTRY + 1))
end

local function entry(body, n)
  return string.sub(body, (n - 1) * ENTRY + 1, n * ENTRY)
end

-- The first use that counts still.
local function first(body, since)
  local low, high = 1, #body / ENTRY + 1
  while low < high do
    local middle = math.floor((low + high) / 2)
    if time(body, middle) < since then low = middle + 1 else high = middle end
  end
  return low
end

local function behind(body, window)
  local from = first(body, (ms - window + 1) * 1000)
  if from == 1 then return body end
  return string.sub(body, (from - 1) * ENTRY + 1)
end

local function raw(key)
  local found = redis.call('GET', key)
  if not found then return '', 0 end
  local window, from = string.match(found, '^(%d+):()')
  local size = #found + 1 - (from or 0)
  if not window or size == 0 or size % ENTRY ~= 0 then error('DAMAGED') end
  return string.sub(found, from), window + 0
end

-- As a limit sees it now: a time that is later than now was written by a clock that was ahead, and counts as now.
local function kept(key, window)
  local body, was = raw(key)
  local count = #body / ENTRY
  if count == 0 then return body, false end
  local mended = false
  if math.floor(time(body, count) / 1000) > ms then
    local entries = {}
    for n = 1, count do
      local one = entry(body, n)
      if time(body, n) > t then one = struct.pack('>I7', t) .. string.sub(one, 8) end
      entries[n] = one
    end
    body = table.concat(entries)
    mended = true
  end
  if was ~= window then
    body = behind(body, was)
    mended = true
  end
  return body, mended
end

local function put(key, window, body, margin)
  if body == '' then return redis.call('DEL', key) end
  local life = math.floor(time(body, #body / ENTRY) / 1000) + window - ms + margin
  redis.call('SET', key, string.format('%.0f:', window) .. body, 'PX', math.max(1, life))
end

-- What is left of a key, under the window and for as long as it had.
local function keep(key, window, body)
  if body == '' then redis.call('DEL', key)
  else redis.call('SET', key, string.format('%.0f:', window) .. body, 'KEEPTTL') end
end

-- How long until so many more are granted, in milliseconds; 0 for now.
local function waitFor(body, uses, window, cost)
  local from = first(body, (ms - window + 1) * 1000)
  local over = #body / ENTRY - from + 1 + math.min(cost, uses) - uses
  if over <= 0 then return 0 end
  return math.floor(time(body, from + over - 1) / 1000) + window - ms
end

local function later(body, at)
  if body == '' then return at end
  return math.max(at, time(body, #body / ENTRY) + 1)
end

-- The times that count still, and the new ones.
local function with(body, uses, window, cost, at)
  return behind(body, window) .. string.rep(struct.pack('>I7', at) .. nonce, math.min(cost, uses))
end

-- Where in a body the uses of this call begin.
local function own(body)
  local from = 1
  while true do
    local found = string.find(body, nonce, from, true)
    if not found then return nil end
    if (found - 8) % ENTRY == 0 then return (found - 8) / ENTRY + 1 end
    from = found + 1
  end
end

local function without(body, at, cost)
  local left, removed = {}, 0
  for n = #body / ENTRY, 1, -1 do
    if removed < cost and time(body, n) == at then removed = removed + 1
    else table.insert(left, 1, entry(body, n)) end
  end
  return table.concat(left), removed
end
`;

/** For keys that are as most are: of the same window, and by a clock that was not ahead. */
const AT_ONCE = `
local call, unpack, sub = redis.call, struct.unpack, string.sub
local KEYS, ARGV = KEYS, ARGV

-- What is to be written in front of the new uses of a key, the latest time there, and how long to wait; or nothing.
local function ready(n)
  local uses, head, cost = ARGV[2 + n * 3] + 0, ARGV[3 + n * 3] .. ':', ARGV[4 + n * 3] + 0
  local found = call('GET', KEYS[n])
  if not found then return head, 0, 0 end
  local window, front = ARGV[3 + n * 3] + 0, #head
  local count = (#found - front) / 12
  if count < 1 or count % 1 ~= 0 or sub(found, 1, front) ~= head then return nil end
  local last = unpack('>I7', found, #found - 11)
  if last > t then return nil end
  if cost > uses then cost = uses end
  local since, from = (ms - window + 1) * 1000, 1
  if unpack('>I7', found, front + 1) < since then
    local behind = count + 1
    while from < behind do
      local middle = from + behind
      middle = (middle - middle % 2) / 2
      if unpack('>I7', found, front + middle * 12 - 11) < since then from = middle + 1 else behind = middle end
    end
  end
  local over = count - from + 1 + cost - uses
  if over > 0 then
    local free = unpack('>I7', found, front + (from + over) * 12 - 23)
    return head, last, (free - free % 1000) / 1000 + window - ms
  end
  if from > 1 then found = head .. sub(found, front + from * 12 - 11) end
  return found, last, 0
end

local function atOnce()
  local at, longest, denied, bodies = t, 0, 0, {}
  for n = 1, #KEYS do
    local body, last, wait = ready(n)
    if body == nil then return nil end
    if last >= at then at = last + 1 end
    if wait > longest then longest, denied = wait, n end
    bodies[n] = body
  end
  if denied > 0 then return { t, 0, denied, longest, ms + longest } end
  local margin, entry = ARGV[4], struct.pack('>I7I5', at, ARGV[3])
  for n = 1, #KEYS do
    local new = entry
    if ARGV[4 + n * 3] ~= '1' then new = string.rep(entry, math.min(ARGV[4 + n * 3], ARGV[2 + n * 3])) end
    call('PSETEX', KEYS[n], ARGV[3 + n * 3] + margin, bodies[n] .. new)
  end
  return { t, 1, at }
end
`;

/**
 * Takes the uses of all keys or of none; only looks where the call's number is 0, and may come again where it is below. Behind the first three, ARGV holds the
 * margin in milliseconds, then for each key the uses, the window and the cost.
 */
export const acquire = script(
  `
local function inFull()
${USES}
local bodies, mends = {}, {}
local margin = tonumber(ARGV[4])
local at, longest, denied = t, 0, 0
for n = 1, #KEYS do
  local uses, window, cost = tonumber(ARGV[2 + n * 3]), tonumber(ARGV[3 + n * 3]), tonumber(ARGV[4 + n * 3])
  local body, mended = kept(KEYS[n], window)
  if n == 1 and body ~= '' and ARGV[3] ~= '0' then
    local found = own(body)
    if found then return { t, 1, time(body, found) } end
  end
  local wait = waitFor(body, uses, window, cost)
  if wait > longest then longest, denied = wait, n end
  at = later(body, at)
  bodies[n], mends[n] = body, mended
end
if ARGV[3] == '0' then
  if denied > 0 then return { t, 0, denied, longest, ms + longest } end
  return { t, 1, t }
end
for n = 1, #KEYS do
  local uses, window, cost = tonumber(ARGV[2 + n * 3]), tonumber(ARGV[3 + n * 3]), tonumber(ARGV[4 + n * 3])
  if denied == 0 then put(KEYS[n], window, with(bodies[n], uses, window, cost, at), margin)
  elseif mends[n] then put(KEYS[n], window, bodies[n], margin) end
end
if denied > 0 then return { t, 0, denied, longest, ms + longest } end
return { t, 1, at }
end

if ARGV[3] + 0 > 0 then
  local answer = atOnce()
  if answer then return answer end
end
return inFull()
`,
  AT_ONCE,
);

/** Undoes what the call of ARGV[4] has taken, once that call can come no more. */
export const undo = script(`
if t <= tonumber(ARGV[5]) then return { t, 'early' } end
nonce = struct.pack('>I5', tonumber(ARGV[4]))
for n = 1, #KEYS do
  local body, window = raw(KEYS[n])
  local left, isOurs = {}, false
  for i = 1, #body / ENTRY do
    local one = entry(body, i)
    if string.sub(one, 8) == nonce then isOurs = true else left[#left + 1] = one end
  end
  if isOurs then keep(KEYS[n], window, table.concat(left)) end
end
return { t }
`);

/** For each key: the time, and how many uses of it. */
export const giveBack = script(`
for n = 1, #KEYS do
  local body, window = raw(KEYS[n])
  local left, removed = without(body, tonumber(ARGV[2 + n * 2]), tonumber(ARGV[3 + n * 2]))
  if removed > 0 then keep(KEYS[n], window, left) end
end
return { t }
`);

/** The margin, then for each key: uses, window, cost, time. Gives the new time, and which are lost. */
export const renew = script(`
local margin = tonumber(ARGV[4])
local at = t
local bodies, done = {}, nil
for n = 1, #KEYS do
  local window = tonumber(ARGV[2 + n * 4])
  bodies[n] = raw(KEYS[n])
  local found = own(bodies[n])
  if found then done = time(bodies[n], found) end
  at = later(kept(KEYS[n], window), at)
end
local answer = { t, done or at }
for n = 1, #KEYS do
  local uses, window = tonumber(ARGV[1 + n * 4]), tonumber(ARGV[2 + n * 4])
  local cost, was = tonumber(ARGV[3 + n * 4]), tonumber(ARGV[4 + n * 4])
  if done then
    if not own(bodies[n]) then answer[#answer + 1] = n - 1 end
  else
    local left, removed = without(bodies[n], was, cost)
    local isHeld = removed > 0 and was >= (ms - window + 1) * 1000
    if isHeld then
      local _, had = raw(KEYS[n])
      keep(KEYS[n], had, left)
    end
    local body = kept(KEYS[n], window)
    local isRoom = isHeld or waitFor(body, uses, window, cost) == 0
    if isRoom then body = with(body, uses, window, cost, at) else answer[#answer + 1] = n - 1 end
    put(KEYS[n], window, body, margin)
  end
end
return answer
`);

/** For each key, how many uses count still, and until when. */
export const count = script(`
local answer = { t }
for n = 1, #KEYS do
  local body, window = raw(KEYS[n])
  local uses = #body / ENTRY - first(body, (ms - window + 1) * 1000) + 1
  answer[2 * n] = uses
  answer[2 * n + 1] = 0
  if uses > 0 then answer[2 * n + 1] = math.min(math.floor(time(body, #body / ENTRY) / 1000), ms) + window end
end
return answer
`);

/** Forgets a key; whether there was something that counted. */
export const reset = script(`
local body, window = raw(KEYS[1])
redis.call('DEL', KEYS[1])
if body ~= '' and math.floor(time(body, #body / ENTRY) / 1000) + window > ms then return { t, 1 } end
return { t, 0 }
`);

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
export const read = script(
  `
local one = live(found(), tonumber(ARGV[4]))
if one == nil then return { t } end
return { t, one.version, one.text }
`,
  VALUES,
);

/** The margin, the version that is expected, for how long (0 for ever), and the text. */
export const compareAndSet = script(
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
  VALUES,
);

/** The margin, and how much. Who wrote last is kept for eight calls, of which one may come again. */
export const increment = script(
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
  VALUES,
);

function script(body: string, helpers = USES): Script {
  const text = PRELUDE + helpers + body;
  return { text, sha: createHash('sha1').update(text).digest('hex') };
}
