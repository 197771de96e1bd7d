# A PostgreSQL cluster of our own in $PG_ROOT, on a free loopback port. The server refuses to run as root: root hands it to the user postgres.
if [ "$(id -u)" = 0 ]; then PG_USER=postgres; else PG_USER=$(id -un); fi

as_postgres() { # closes inherited files above 2: the server would keep them open for as long as it lives
  (
    cd /
    for f in /proc/"$BASHPID"/fd/*; do n=${f##*/}; [ "$n" -le 2 ] || eval "exec $n>&-" 2>/dev/null || true; done
    if [ "$(id -u)" = 0 ]; then exec setpriv --reuid=postgres --regid=postgres --init-groups --reset-env env LC_ALL=C.UTF-8 "$@"; else exec env LC_ALL=C.UTF-8 "$@"; fi
  )
}

cluster_place() { # where the server's user cannot pass through a parent folder, the cluster lives in /var/tmp
  mkdir -p "$PG_ROOT"
  [ "$(id -u)" = 0 ] || return 0
  chown postgres: "$PG_ROOT"
  if ! as_postgres test -w "$PG_ROOT" 2>/dev/null; then
    local elsewhere; elsewhere="/var/tmp/sirena-$(echo "$PG_ROOT" | cksum | cut -d' ' -f1)"
    say "the user postgres cannot reach $PG_ROOT (a folder above it is closed); the cluster lives in $elsewhere"
    PG_ROOT=$elsewhere; mkdir -p "$PG_ROOT"; chown postgres: "$PG_ROOT"
  fi
}

pid_line() { sed -n "$1p" "$PG_ROOT/data/postmaster.pid" 2>/dev/null || true; }
cluster_alive() { local p; p=$(pid_line 1); [ -n "$p" ] && [ -r "/proc/$p/stat" ] && ! grep -q ') Z ' "/proc/$p/stat"; }
cluster_running() { cluster_alive && "$(postgres_bin)/pg_isready" -q -h 127.0.0.1 -p "$(pid_line 4)"; }
cluster_password() { cat "$PG_ROOT/password"; }
port_is_free() { ! (exec 3<>"/dev/tcp/127.0.0.1/$1") 2>/dev/null; }
udp_port_is_free() { ! grep -qiE "^ *[0-9]+: [0-9A-F]+:$(printf %04X "$1") " /proc/net/udp /proc/net/udp6 2>/dev/null; }
free_port() { local p; while :; do p=$((20000 + RANDOM % 30000)); port_is_free "$p" && { echo "$p"; return; }; done; }

cluster_make() {
  say "making a PostgreSQL cluster in ${PG_ROOT#"$HERE"/}"
  rm -rf "$PG_ROOT/data.new"
  (umask 077; head -c 18 /dev/urandom | base64 | tr '+/' '-_' >"$PG_ROOT/password")
  local words; words=$(mktemp); cat "$PG_ROOT/password" >"$words"
  [ "$(id -u)" != 0 ] || chown postgres: "$words"
  as_postgres "$(postgres_bin)/initdb" -D "$PG_ROOT/data.new" -U app -E UTF8 --locale=C.UTF-8 --lc-collate=C -A scram-sha-256 --pwfile="$words" >"$STATE/initdb.log" 2>&1 </dev/null \
    || fail "PostgreSQL could not make its cluster. Its words are in .sirena/initdb.log."
  rm -f "$words"; mv "$PG_ROOT/data.new" "$PG_ROOT/data"
}

cluster_start() { # sets PG_PORT
  cluster_place
  if cluster_running; then PG_PORT=$(pid_line 4); return; fi
  [ -f "$PG_ROOT/data/PG_VERSION" ] || cluster_make
  for _ in 1 2 3 4 5; do
    PG_PORT=$(cat "$PG_ROOT/port" 2>/dev/null || true)
    { [ -n "$PG_PORT" ] && port_is_free "$PG_PORT"; } || PG_PORT=$(free_port)
    echo "$PG_PORT" >"$PG_ROOT/port"
    if as_postgres "$(postgres_bin)/pg_ctl" -D "$PG_ROOT/data" -l "$PG_ROOT/log" -w -t 60 \
      -o "-p $PG_PORT -c listen_addresses=127.0.0.1 -c unix_socket_directories='' -c max_connections=200 -c shared_buffers=512MB -c max_wal_size=4GB -c wal_compression=on -c random_page_cost=1.1 ${PG_MORE:-}" start >/dev/null 2>&1 </dev/null; then
      cluster_running && return
    fi
    rm -f "$PG_ROOT/port"
  done
  tail -5 "$PG_ROOT/log" >&2 || true
  fail "PostgreSQL did not start. Its log is $PG_ROOT/log."
}

cluster_stop() { ! cluster_alive || as_postgres "$(postgres_bin)/pg_ctl" -D "$PG_ROOT/data" -m fast -w -t 60 stop >/dev/null 2>&1 </dev/null || true; }

cluster_sql() { PGPASSWORD=$(cluster_password) "$(postgres_bin)/psql" -qAt -v ON_ERROR_STOP=1 -h 127.0.0.1 -p "$PG_PORT" -U app -d "$1" -c "$2"; }
