/**
 * Scripts about uses. A key is packed: the window in milliseconds and a colon, then for each use its time (7 bytes, in
 * microseconds since 1970) and the number of the call that took it (5 bytes), by which a call that is asked a second
 * time finds what it took.
 */
import { script } from './scripts.js';

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
  AT_ONCE,
  `
local function inFull()
${USES}
local bodies, mends = {}, {}
local margin = tonumber(ARGV[4])
local at, longest, denied = t, 0, 0
for n = 1, #KEYS do
  bodies[n], mends[n] = kept(KEYS[n], tonumber(ARGV[3 + n * 3]))
  -- Of a shorter window it may be gone already: any key will do.
  local found = ARGV[3] ~= '0' and own(bodies[n])
  if found then return { t, 1, time(bodies[n], found) } end
end
for n = 1, #KEYS do
  local uses, window, cost = tonumber(ARGV[2 + n * 3]), tonumber(ARGV[3 + n * 3]), tonumber(ARGV[4 + n * 3])
  local wait = waitFor(bodies[n], uses, window, cost)
  if wait > longest then longest, denied = wait, n end
  at = later(bodies[n], at)
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
);

/** Undoes what the call of ARGV[4] has taken, once that call can come no more. */
export const undo = script(
  USES,
  `
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
`,
);

/** For each key: the time, and how many uses of it. */
export const giveBack = script(
  USES,
  `
for n = 1, #KEYS do
  local body, window = raw(KEYS[n])
  local left, removed = without(body, tonumber(ARGV[2 + n * 2]), tonumber(ARGV[3 + n * 2]))
  if removed > 0 then keep(KEYS[n], window, left) end
end
return { t }
`,
);

/** The margin, then for each key: uses, window, cost, time. Gives the new time, and which are lost. */
export const renew = script(
  USES,
  `
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
`,
);

/** For each key, how many uses count still, and until when. */
export const count = script(
  USES,
  `
local answer = { t }
for n = 1, #KEYS do
  local body, window = raw(KEYS[n])
  local uses = #body / ENTRY - first(body, (ms - window + 1) * 1000) + 1
  answer[2 * n] = uses
  answer[2 * n + 1] = 0
  if uses > 0 then answer[2 * n + 1] = math.min(math.floor(time(body, #body / ENTRY) / 1000), ms) + window end
end
return answer
`,
);

/** Forgets a key; whether there was something that counted. */
export const reset = script(
  USES,
  `
local body, window = raw(KEYS[1])
redis.call('DEL', KEYS[1])
if body ~= '' and math.floor(time(body, #body / ENTRY) / 1000) + window > ms then return { t, 1 } end
return { t, 0 }
`,
);
