#!/usr/bin/env bash
# A private PostgreSQL on loopback. postgres.sh start|stop|status; safe to run twice, as root or not, and after a crash.
# `start` prints the settings that Django reads, one NAME=value a line.
set -euo pipefail
here=$(dirname "$(dirname "$(readlink -f "${BASH_SOURCE[0]}")")")
cd / # the database's user may not be able to read our folder
name=nineglass
base=${NINEGLASS_LOCAL:-$here/.local}/postgres
first_port=54731
bin=$(ls -d /usr/lib/postgresql/*/bin 2>/dev/null | sort -V | tail -1 || true)
[ -x "$bin/postgres" ] || { echo "no PostgreSQL server found: apt-get install postgresql" >&2; exit 3; }

mkdir -p "$base"
if [ "$(id -u)" = 0 ]; then
  owner=postgres
  as() { runuser -u "$owner" -- "$@"; }
  base=$(readlink -f "$base")
  # every folder above must let the owner through; under a private home none does
  if ! as test -x "$base" || ! as test -x "$(dirname "$base")"; then
    base=/var/tmp/$name-postgres-$(printf %s "$base" | md5sum | cut -c1-8)
  fi
  install -d -o "$owner" -m 711 "$base" "$base/run"
else
  owner=$(id -un)
  as() { "$@"; }
  mkdir -p "$base/run"
  base=$(readlink -f "$base")
fi
data=$base/data passes=$base/pgpass port_file=$base/port
port() { cat "$port_file" 2>/dev/null || echo "$first_port"; }
ask() { PGPASSFILE=$passes PGCONNECT_TIMEOUT=3 "$bin/psql" -XAtq -h 127.0.0.1 -p "$(port)" -U "$name" -d postgres "$@"; }
ours() { [ "$(ask -c 'show data_directory' 2>/dev/null)" = "$data" ]; }
busy() { (exec 3<>"/dev/tcp/127.0.0.1/$1") 2>/dev/null; }

create() {
  as test -s "$data/PG_VERSION" && return 0
  rm -rf "$data"
  local word
  word=$(od -An -N24 -tx1 /dev/urandom | tr -d ' \n')
  (umask 077; echo "127.0.0.1:*:*:$name:$word" >"$passes"; echo "$word" >"$base/word")
  [ "$(id -u)" != 0 ] || chown "$owner" "$base/word"
  as "$bin/initdb" -D "$data" -U "$name" -E UTF8 --locale=C.UTF-8 --auth=scram-sha-256 --pwfile="$base/word" >"$base/initdb.log" 2>&1 ||
    { cat "$base/initdb.log" >&2; exit 1; }
  rm -f "$base/word"
}

# after kill -9 the old process may still be a zombie, and after a reboot its id may belong to another program
forget_the_dead() {
  local pid
  pid=$(as head -1 "$data/postmaster.pid" 2>/dev/null || true)
  [ -n "$pid" ] || return 0
  for _ in $(seq 50); do grep -q '^State:.Z' "/proc/$pid/status" 2>/dev/null || break; sleep 0.2; done
  [ "$(cat "/proc/$pid/comm" 2>/dev/null)" = postgres ] || as rm -f "$data/postmaster.pid"
}

start() {
  exec 9>"$base/lock"
  flock -w 120 9
  create
  ours && return 0
  local p
  p=$(port)
  while busy "$p"; do p=$((p + 1)); done
  echo "$p" >"$port_file"
  forget_the_dead
  as "$bin/pg_ctl" -D "$data" -l "$base/log" -w -t 60 -o "-p $p -c listen_addresses=127.0.0.1 -c unix_socket_directories=$base/run" start \
    9>&- </dev/null >/dev/null || { tail -20 "$base/log" >&2; exit 1; }
  ours || { echo "a PostgreSQL answers on port $p, but it is not ours" >&2; exit 1; }
  ask -c "select 1 from pg_database where datname='$name'" | grep -q 1 || ask -c "create database \"$name\""
}

case "${1:-start}" in
  start) start; printf 'PGHOST=127.0.0.1\nPGPORT=%s\nPGUSER=%s\nPGDATABASE=%s\nPGPASSFILE=%s\n' "$(port)" "$name" "$name" "$passes" ;;
  stop) as "$bin/pg_ctl" -D "$data" -m fast -w stop >/dev/null 2>&1 || true ;;
  status) if ours; then echo up; else echo down; exit 1; fi ;;
  *) echo "usage: $0 start|stop|status" >&2; exit 2 ;;
esac
