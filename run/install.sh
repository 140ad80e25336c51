#!/usr/bin/env bash
# Installs what is missing (Debian, Python, npm packages) and builds the page. Safe to run
# twice: each step looks first, and a second run takes a second or two.
# install.sh [dev] [bench]: also what it is developed and tested with, and what the bench sounds with.
set -euo pipefail
cd "$(dirname "$0")/.."
# Two starts at once: the second waits until the first has installed everything.
exec 9> .install.lock
flock 9
say() { echo "install: $*" >&2; }
as_root() { if [ "$(id -u)" = 0 ]; then "$@"; else sudo "$@"; fi; }

missing=()
has() { command -v "$1" >/dev/null 2>&1 || [ -x "/usr/sbin/$1" ]; }
has mariadbd || missing+=(mariadb-server-core)
has mariadb-install-db || missing+=(mariadb-server-core)
has mariadb || missing+=(mariadb-client-core)
has redis-server || missing+=(redis-server)
has ffmpeg || missing+=(ffmpeg)
has rubberband || missing+=(rubberband-cli)
has espeak-ng || missing+=(espeak-ng) # says rhythm words
has chromium || missing+=(chromium)
has pkg-config || missing+=(pkg-config)
has gcc || missing+=(gcc libc6-dev)
has mariadb_config || has mysql_config || missing+=(libmariadb-dev)
python3.11 -c 'import ensurepip' 2>/dev/null || python3 -c 'import ensurepip' 2>/dev/null || missing+=(python3-venv)
if [[ " $* " = *" bench "* ]]; then # the bench sounds its songs with these
  has fluidsynth || missing+=(fluidsynth)
  [ -e /usr/share/sounds/sf2/FluidR3_GM.sf2 ] || missing+=(fluid-soundfont-gm)
  [ -d /usr/share/hydrogen/data/drumkits/ForzeeStereo ] || missing+=(hydrogen-drumkits hydrogen-data)
fi
if [ ${#missing[@]} -gt 0 ]; then
  say "Debian packages: ${missing[*]}"
  # Debian starts a server that it installs; ours are started by us alone.
  policy=/usr/sbin/policy-rc.d
  made_policy=
  if [ ! -e "$policy" ]; then
    printf '#!/bin/sh\nexit 101\n' | as_root tee "$policy" >/dev/null
    as_root chmod +x "$policy"
    made_policy=yes
  fi
  as_root apt-get update -q >/dev/null
  as_root env DEBIAN_FRONTEND=noninteractive apt-get install -yq --no-install-recommends "${missing[@]}" >/dev/null
  [ -z "$made_policy" ] || as_root rm -f "$policy"
fi

python=$(command -v python3.11 || command -v python3)
"$python" -c 'import sys; sys.exit(sys.version_info < (3, 11))' || { say "Python 3.11 is needed."; exit 1; }
packages() { .venv/bin/pip install -q --disable-pip-version-check "$@"; }
want=$(cat requirements.txt pyproject.toml | sha256sum)
if [ "$(cat .venv/installed 2>/dev/null)" != "$want" ]; then
  say "Python packages"
  [ -x .venv/bin/python ] || "$python" -m venv .venv
  packages --require-hashes -r requirements.txt
  packages --no-deps --no-build-isolation -e .
  echo "$want" > .venv/installed
fi
if [[ " $* " = *" dev "* ]]; then
  want=$(cat requirements.txt requirements-dev.txt | sha256sum)
  if [ "$(cat .venv/installed-dev 2>/dev/null)" != "$want" ]; then
    say "Python packages to test with"
    packages --require-hashes -r requirements-dev.txt
    echo "$want" > .venv/installed-dev
  fi
fi

if ! command -v node >/dev/null || [ "$(node -p 'process.versions.node.split(".")[0]')" -lt 20 ]; then
  say "Node 20 or newer is needed (with npm); install it and run this again."
  exit 1
fi
want=$(sha256sum < web/package-lock.json)
if [ "$(cat web/node_modules/.installed 2>/dev/null)" != "$want" ]; then
  say "npm packages"
  (cd web && npm ci --silent --no-audit --no-fund)
  echo "$want" > web/node_modules/.installed
fi
want=$(find web/src web/public web/index.html web/player.html web/package.json web/vite.config.ts -type f -print0 | sort -z | xargs -0 sha256sum | sha256sum)
if [ "$(cat web/dist/.built 2>/dev/null)" != "$want" ]; then
  say "building the page"
  (cd web && npx vite build --logLevel error)
  # Served compressed: a player's page is opened on phones.
  .venv/bin/python -m whitenoise.compress -q web/dist
  echo "$want" > web/dist/.built
fi
