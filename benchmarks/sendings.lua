-- Sends the prepared requests of a file one after another, each once, then stops.
-- Lines: path, cookie, token, key, body; separated by tabs. An argument "empty" posts to "/".
local lines = {}
local place = 0

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
  place = place + 1
  return lines[(place - 1) % #lines + 1]
end

answered = 0
function response(status, headers, body)
  answered = answered + 1
  if answered == #lines then wrk.thread:stop() end
end

function done(summary, latency, requests)
  io.write(string.format("RESULT %d %d %d %d %d %d %d\n", summary.requests, summary.duration,
    summary.errors.status, summary.errors.connect + summary.errors.read + summary.errors.timeout,
    latency:percentile(50), latency:percentile(99), latency.max))
end
