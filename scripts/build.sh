# Builds what is not built, or is older than its sources.
stale() { [ ! -f "$1" ] || [ -n "$(find sirena scripts src ${2:-} Directory.Build.props Directory.Packages.props global.json .editorconfig -type f -newer "$1" -not -path '*/obj/*' -not -path '*/bin/*' -print -quit)" ]; }

build() { # stamp, then what to build
  local stamp=$1 log="$STATE/build.log" project; shift
  say "building (a first build fetches packages and takes a few minutes)"
  for project in "$@"; do
    dotnet build "$project" -c Release -v quiet ${QUICK:+-p:RunAnalyzers=false} >"$log" 2>&1 || { tail -30 "$log" >&2; fail "The build failed; the whole log is in .sirena/build.log."; }
  done
  touch "$stamp"
}

# Whoever only runs it has no use for the analyzers, which take more than half of a build; the tests' build has them.
build_app() { ! stale "$STATE/built-app" || QUICK=1 build "$STATE/built-app" src/Sirena.Web src/Sirena.Demo; }
build_all() { ! stale "$STATE/built-all" "tests bench tools" || { build "$STATE/built-all" Sirena.slnx; touch "$STATE/built-app"; }; }
