-- Sends the prepared requests of a file one after another, each once, then stops.
-- Lines: path, cookie, token, key, body; separated by tabs.
-- Tells the microseconds from the first request to the last answer: the generator itself waits out
-- the duration it was given.
local ffi = require("ffi")
ffi.cdef("typedef struct { long s; long us; } moment; int gettimeofday(moment *now, void *zone);")

local function microseconds()
  local now = ffi.new("moment")
  ffi.C.gettimeofday(now, nil)
  return tonumber(now.s) * 1000000 + tonumber(now.us)
end

local lines = {}
local place = 0
local sender

function setup(thread)
  sender = thread
end

function init(args)
  local file = io.open(args[1], "r")
  for line in file:lines() do
    local path, cookie, token, key, body = line:match("([^\t]*)\t([^\t]*)\t([^\t]*)\t([^\t]*)\t(.*)")
    lines[#lines + 1] = wrk.format("POST", path, {
      ["Content-Type"] = "application/json", ["Cookie"] = cookie,
      ["X-CSRF-Token"] = token, ["Idempotency-Key"] = key, ["Host"] = "127.0.0.1",
    }, body)
  end
  file:close()
end

function request()
  began = began or microseconds()
  place = place + 1
  return lines[(place - 1) % #lines + 1]
end

answered = 0
function response(status, headers, body)
  answered = answered + 1
  took = microseconds() - began
  if answered == #lines then wrk.thread:stop() end
end

function done(summary, latency, requests)
  io.write(string.format("RESULT %d %d %d %d %d %d %d\n", summary.requests, sender:get("took"),
    summary.errors.status, summary.errors.connect + summary.errors.read + summary.errors.timeout,
    latency:percentile(50), latency:percentile(99), latency.max))
end
