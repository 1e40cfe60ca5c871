# Set-up shared by start, test and bench; sourced, not run. Everything it installs stays in .local, web/node_modules and the user's cache,
# but for Debian's packages. Each step is skipped when what it needs has not changed.
set -euo pipefail
root=$(dirname "$(dirname "$(readlink -f "${BASH_SOURCE[0]}")")")
cd "$root"
local=${NINEGLASS_LOCAL:-$root/.local}
export NINEGLASS_LOCAL=$local
venv=$root/.local/venv
python=$venv/bin/python
export PYTHONPATH=$root/core:$root/server:$root
unset PYTHONDONTWRITEBYTECODE
mkdir -p "$local/done" "$root/.local"

say() { printf '\033[1m%s\033[0m %s\n' "nineglass:" "$*"; }

# once NAME FILE... : true when NAME was not yet done with these contents; `finished NAME` books it
key_of() { cat "$@" 2>/dev/null | sha256sum | cut -c1-24; }
once() { local name=$1; shift; key=$(key_of "$@"); [ "$(cat "$local/done/$name" 2>/dev/null)" != "$key" ]; }
finished() { echo "$key" >"$local/done/$1"; }

debian() {
  local missing=()
  for package in "$@"; do dpkg-query -W -f='${Status}' "$package" 2>/dev/null | grep -q 'ok installed' || missing+=("$package"); done
  [ ${#missing[@]} -eq 0 ] && return 0
  say "installing from Debian: ${missing[*]}"
  local as_root=()
  [ "$(id -u)" = 0 ] || as_root=(sudo)
  "${as_root[@]}" apt-get update -qq
  DEBIAN_FRONTEND=noninteractive "${as_root[@]}" apt-get install -y -qq --no-install-recommends "${missing[@]}" >"$local/apt.log" 2>&1 ||
    { tail -20 "$local/apt.log" >&2; exit 1; }
}

python_packages() { # requirements.txt or requirements-dev.txt
  once "python-$1" requirements.txt "$1" || [ ! -x "$python" ] || return 0
  say "installing Python packages ($1)"
  [ -x "$python" ] || python3 -m venv "$venv"
  "$venv/bin/pip" install -q uv
  "$venv/bin/uv" pip install -q --python "$python" --compile-bytecode -r "$1"
  once "python-$1" requirements.txt "$1" || true
  finished "python-$1"
}

web_packages() {
  once npm web/package.json web/package-lock.json || [ ! -d web/node_modules ] || return 0
  say "installing npm packages"
  (cd web && npm install --no-audit --no-fund --loglevel=error >"$local/npm.log" 2>&1) || { tail -20 "$local/npm.log" >&2; exit 1; }
  once npm web/package.json web/package-lock.json || true
  finished npm
}

web_build() {
  local sources
  sources=$(find web/src web/index.html web/vite.config.ts web/package-lock.json -type f | sort)
  # shellcheck disable=SC2086
  if once web $sources || [ ! -f web/dist/index.html ]; then
    say "building the web application"
    (cd web && npm run -s build >"$local/vite.log" 2>&1) || { tail -30 "$local/vite.log" >&2; exit 1; }
    # shellcheck disable=SC2086
    once web $sources || true
    finished web
  fi
}

# kernels [--first]: what the first stage needs, or everything
kernels() {
  local sources name="kernels${1:-}"
  sources=$(find core/nineglass -name '*.py' | sort)
  # shellcheck disable=SC2086
  if once "$name" $sources; then
    local words=" (once; about 75 s on two cores)"
    [ -z "${1:-}" ] || words=" that the first stage needs (once; about 40 s on two cores)"
    say "compiling kernels$words"
    "$python" -m compileall -q core server
    "$python" -m nineglass.warm "$@"
    # shellcheck disable=SC2086
    once "$name" $sources || true
    finished "$name"
  fi
}

database() {
  local settings
  settings=$(tools/postgres.sh start)
  while IFS= read -r setting; do export "${setting?}"; done <<<"$settings"
}

manage() { (cd server && "$python" manage.py "$@"); }
