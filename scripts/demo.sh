# The demo: PostgreSQL, the stand-ins with the order system, and the application.
DEMO_FILE="$STATE/demo.json"

demo_setting() { sed -nE "s/^ *\"$1\": \"([^\"]*)\".*/\1/p" "$DEMO_FILE" | head -1; }

wait_until_ready() { # url, log
  for _ in $(seq 300); do
    ! curl -fsS -m 2 "$1/health/ready" >/dev/null 2>&1 || return 0
    process_of web >/dev/null || { tail -15 "$2" >&2; fail "The application stopped while starting; its log is .sirena/web.log."; }
    sleep 0.2
  done
  fail "The application does not answer at $1 after a minute; its log is .sirena/web.log."
}

need_curl() { command -v curl >/dev/null || install_packages curl; }

run_demo() {
  local fresh="" port=5080 detach="" quiet=false
  while [ $# -gt 0 ]; do
    case "$1" in
      --fresh) fresh=1 ;;
      --detach) detach=1 ;;
      --quiet) quiet=true ;;
      --port) port=${2:-}; shift; [[ "$port" =~ ^[0-9]+$ ]] && [ "$port" -gt 0 ] && [ "$port" -lt 65536 ] || fail "--port takes a number from 1 to 65535." ;;
      *) fail "demo has no option '$1'. It has --fresh, --port N and --detach." ;;
    esac
    shift
  done
  need_sdk; need_postgres; need_curl
  local url="http://127.0.0.1:$port"
  if [ -z "$fresh" ] && process_of web >/dev/null && process_of stand-ins >/dev/null && [ "$(demo_setting url)" = "$url" ] && curl -fsS -m 2 "$url/health/ready" >/dev/null 2>&1 && ! stale "$STATE/built-app"; then
    say "it is running already"
    tell_where; return
  fi
  build_app
  stop_process web; stop_process stand-ins
  port_is_free "$port" || fail "Port $port is taken by another program. Choose another: ./sirena demo --port $((port + 10))"
  PG_ROOT="$STATE/postgres"; cluster_start
  [ -z "$fresh" ] || cluster_sql postgres "drop database if exists sirena with (force)"
  [ "$(cluster_sql postgres "select 1 from pg_database where datname = 'sirena'")" = 1 ] || cluster_sql postgres "create database sirena"
  [ -f "$STATE/sirena.key" ] || (umask 077; head -c 32 /dev/urandom | base64 >"$STATE/sirena.key")
  local database web_port=$((port + 1)) smtp_port=2525 reports_port=2526 names_port=2553
  database="Host=127.0.0.1;Port=$PG_PORT;Database=sirena;Username=app;Password=$(cluster_password)"
  port_is_free "$web_port" || web_port=$(free_port)
  port_is_free "$smtp_port" || smtp_port=$(free_port)
  port_is_free "$reports_port" || reports_port=$(free_port)
  udp_port_is_free "$names_port" || names_port=$(free_port)
  say "loading the demo data"
  dotnet src/Sirena.Demo/bin/Release/net10.0/Sirena.Demo.dll settle --database "$database" --file "$DEMO_FILE" --url "$url" --stand-ins "http://127.0.0.1:$web_port" --smtp "127.0.0.1:$smtp_port" >"$STATE/settle.log" 2>&1 \
    || { tail -15 "$STATE/settle.log" >&2; fail "The demo data could not be loaded; the log is .sirena/settle.log."; }
  export SIRENA_REPORTS="127.0.0.1:$reports_port" SIRENA_DNS="127.0.0.1:$names_port" SIRENA_INSIDE="127.0.0.1,localhost" SIRENA_DATABASE=$database SIRENA_KEY_FILE="$STATE/sirena.key" SIRENA_FOLDERS="$STATE/in"
  mkdir -p "$STATE/in/ubl" "$STATE/in/lists"
  start_process web "$STATE/web.log" dotnet src/Sirena.Web/bin/Release/net10.0/Sirena.Web.dll --urls "$url"
  wait_until_ready "$url" "$STATE/web.log"
  start_process stand-ins "$STATE/stand-ins.log" dotnet src/Sirena.Demo/bin/Release/net10.0/Sirena.Demo.dll run --file "$DEMO_FILE" --quiet "$quiet" --names "$names_port" --reports "127.0.0.1:$reports_port" --folder "$STATE/in"
  for _ in $(seq 100); do process_of stand-ins >/dev/null || break; ! port_is_free "$web_port" && ! port_is_free "$smtp_port" && break; sleep 0.1; done
  process_of stand-ins >/dev/null || { tail -15 "$STATE/stand-ins.log" >&2; stop_process web; fail "The stand-ins stopped while starting; their log is .sirena/stand-ins.log."; }
  # The stand-ins connect themselves through the API; the chat is the last.
  for _ in $(seq 100); do ! curl -fsS -m 2 -H "Authorization: Bearer $(demo_setting token)" "$url/api/gateways" 2>/dev/null | grep -q '"id":"chat"' || break; sleep 0.1; done
  tell_where
  [ -z "$detach" ] || return 0
  say "running; Ctrl-C stops it"
  trap 'run_stop; exit 0' INT TERM
  while process_of web >/dev/null; do sleep 1; done
  run_stop; fail "The application stopped by itself; its log is .sirena/web.log."
}

tell_where() {
  cat <<TEXT

  Sirena       $(demo_setting url)
  Stand-ins    $(demo_setting standIns)   what arrived, and faults to set
  Sign in as   $(sed -nE 's/.*"email": "([^"]*)".*/\1/p' "$DEMO_FILE" | head -1)   $(sed -nE 's/.*"password": "([^"]*)".*/\1/p' "$DEMO_FILE" | head -1)   (supervisor)
  All ways in  .sirena/demo.json

TEXT
}

run_stop() {
  stop_process stand-ins; stop_process web
  PG_ROOT="$STATE/postgres"
  if [ -d "$PG_ROOT" ] && [ -x "$(postgres_bin)/pg_ctl" ]; then cluster_place; cluster_stop; fi
  say "stopped"
}
