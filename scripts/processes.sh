# Processes that we started, by the ids that we noted. A note holds the id and the start time, so that a reused id is never mistaken for ours.
started_at() { sed -E 's/^.*\) //' "/proc/$1/stat" 2>/dev/null | cut -d' ' -f20; }

note_process() { echo "$2 $(started_at "$2")" >"$STATE/run/$1"; }

process_of() { # prints the id when it is alive and ours
  local id since
  read -r id since 2>/dev/null <"$STATE/run/$1" || return 1
  [ -n "$id" ] && [ "$(started_at "$id")" = "$since" ] && ! grep -q ') Z ' "/proc/$id/stat" && echo "$id"
}

start_process() { # name, log, command...
  local name=$1 log=$2; shift 2
  setsid nohup "$@" >"$log" 2>&1 </dev/null &
  note_process "$name" $!
}

stop_process() {
  local id; id=$(process_of "$1") || { rm -f "$STATE/run/$1"; return 0; }
  kill -TERM "$id" 2>/dev/null || true
  for _ in $(seq 120); do process_of "$1" >/dev/null || break; sleep 0.1; done
  if process_of "$1" >/dev/null; then kill -KILL "$id" 2>/dev/null || true; fi
  rm -f "$STATE/run/$1"
}
