# What ./start, ./test and ./bench share: everything they need is made here, once, below .local/.
# Sourced, not run. Each step leaves a mark when it is complete; one cut short is done again.

root=$(cd "$(dirname "${BASH_SOURCE[0]}")/.." && pwd)
cd "$root"
local_dir=$root/.local
venv=$local_dir/venv

say() { printf '%s\n' "$*" >&2; }
stop() { say "$*"; exit 1; }

digest() { cat "$@" | sha256sum | cut -d' ' -f1; }

is_done() { [ -f "$1" ] && [ "$(cat "$1")" = "$2" ]; } # MARK DIGEST

prepare_folder() {
  mkdir -p "$local_dir" 2>/dev/null || stop "The folder $root cannot be written to. Have it given to you (as root: chown -R $(id -un) $root), or clone anew elsewhere. Nothing was changed."
  { [ -w "$local_dir" ] && { [ -O "$local_dir" ] || [ "$(id -u)" = 0 ]; }; } || stop "$local_dir cannot be written to: it is read-only or somebody else's. What is in it may be needed (a college's database lies there), so do not delete it: start Gremba as $(stat -c %U "$local_dir"), or clone anew elsewhere."
}

can_be_used() { "$1" -c 'import sys, venv, ensurepip; sys.exit(sys.version_info < (3, 11))' 2>/dev/null; } # PYTHON

# Debian's own Python first: it is built with profile-guided optimisation, which one built at home
# often lacks; plain loops took a quarter longer or more without it.
find_python() {
  local python
  for python in /usr/bin/python3 python3; do
    if can_be_used "$python"; then echo "$python"; return 0; fi
  done
  return 1
}

# Debian's packages: named by what must be there, installed only when it is not.
missing_packages() { # [browser|bench]
  find_python >/dev/null || echo python3 python3-venv
  compgen -G '/usr/lib/postgresql/*/bin/initdb' >/dev/null || echo postgresql
  [ "${1:-}" != browser ] || [ -x /usr/bin/chromium ] || echo chromium
  # The browser driver brings a Node of its own, which needs this library.
  [ "${1:-}" != browser ] || compgen -G '/usr/lib/*/libatomic.so.1' >/dev/null || echo libatomic1
  [ "${1:-}" != bench ] || command -v wrk >/dev/null || echo wrk
  [ -e /etc/ssl/certs/ca-certificates.crt ] || echo ca-certificates
}

install_packages() { # [browser|bench]
  local packages command as
  packages=$(missing_packages "${1:-}" | tr '\n' ' ')
  [ -n "${packages// /}" ] || return 0
  command -v apt-get >/dev/null || stop "These programs are missing: $packages. Install them (on Debian 12: apt-get install $packages)."
  if [ "$(id -u)" = 0 ]; then as=
  elif command -v sudo >/dev/null && { sudo -n true 2>/dev/null || [ -t 0 ]; }; then as=sudo
  else stop "Some of Debian's packages are missing. As root, run this one line, then start again:
  mkdir -p /etc/postgresql-common/createcluster.d && echo 'create_main_cluster = false' >/etc/postgresql-common/createcluster.d/private.conf && apt-get update && apt-get install -y --no-install-recommends $packages"
  fi
  say "Installing Debian's packages: $packages"
  # Debian would start a cluster of its own; ours is private.
  if [[ $packages == *postgresql* ]] && [ ! -e /etc/postgresql-common ]; then
    $as mkdir -p /etc/postgresql-common/createcluster.d
    echo 'create_main_cluster = false' | $as tee /etc/postgresql-common/createcluster.d/private.conf >/dev/null
  fi
  { $as apt-get update -qq && $as env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends $packages; } \
    >"$local_dir/apt.log" 2>&1 || { tail -n 5 "$local_dir/apt.log" >&2; stop "The packages could not be installed; the whole story is in $local_dir/apt.log."; }
}

install_python() { # run|test|node
  local lock=requirements/$1.lock want mark
  want=$(digest "$lock")
  mark=$venv/installed-$1
  "$venv/bin/python" -c 'import pip' 2>/dev/null || { say "Making the Python environment"; rm -rf "$venv"; "$(find_python)" -m venv "$venv"; }
  local anew=
  if is_done "$mark" "$want"; then
    "$venv/bin/python" -I tools/check_environment.py "$lock" && return 0
    # A package that lacks files counts as installed with pip, so all are installed anew.
    anew=--force-reinstall
  fi
  say "Installing Python packages ($1)"
  "$venv/bin/python" -m pip install --quiet --disable-pip-version-check --no-input --require-hashes \
    $anew -r "$lock" \
    || stop "The Python packages could not be installed. Is the package registry reachable? Start again when it is."
  echo "$want" >"$mark"
}

# Vite needs Node 20.19 or newer; Debian 12's is older, so then one comes with a Python package.
find_node() {
  if command -v node npm >/dev/null && node -e 'const [a, b] = process.versions.node.split(".").map(Number); process.exit(a > 20 || (a === 20 && b >= 19) ? 0 : 1)' 2>/dev/null; then
    return 0
  fi
  install_python node
  export PATH="$venv/bin:$PATH"
}

install_node_packages() {
  local want mark=frontend/node_modules/.installed
  want=$(digest frontend/package.json frontend/package-lock.json)
  is_done "$mark" "$want" && return 0
  find_node
  say "Installing the front end's packages"
  # Not `npm ci`: it insists on the optional packages of every other platform, and not every
  # registry has them all. Versions and checksums are taken from the lock file all the same.
  (cd frontend && npm install --no-save --no-audit --no-fund --loglevel=error >"$local_dir/npm.log" 2>&1) \
    || { tail -n 5 "$local_dir/npm.log" >&2; stop "The front end's packages could not be installed. Is the package registry reachable? Start again when it is."; }
  echo "$want" >"$mark"
}

build_frontend() {
  local want mark=frontend/dist/.built
  want=$(find frontend -path frontend/node_modules -prune -o -path frontend/dist -prune -o -type f -print0 | sort -z | xargs -0 cat | sha256sum | cut -d' ' -f1)
  is_done "$mark" "$want" && return 0
  install_node_packages
  find_node
  say "Building the front end"
  (cd frontend && npm run --silent build >"$local_dir/build.log" 2>&1) \
    || { tail -n 20 "$local_dir/build.log" >&2; stop "The front end could not be built; see $local_dir/build.log."; }
  echo "$want" >"$mark"
}
