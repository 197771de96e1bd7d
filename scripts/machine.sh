# What the machine must have. Missing pieces come from Debian's packages.
need_sdk() {
  command -v dotnet >/dev/null || fail "The .NET SDK 10 is missing. Install it, so that 'dotnet --version' answers, and run this again."
  if ! ls /usr/lib/*/libicuuc.so.* >/dev/null 2>&1; then
    install_packages "$(apt-cache search --names-only '^libicu[0-9]+$' | cut -d' ' -f1 | tail -1)"
  fi
}

as_root() { if [ "$(id -u)" = 0 ]; then "$@"; else sudo "$@"; fi; }

install_packages() {
  command -v apt-get >/dev/null || fail "These packages are missing and apt-get is not here to install them: $*."
  [ "$(id -u)" = 0 ] || command -v sudo >/dev/null || fail "These packages are missing: $*. Install them as root: apt-get install -y --no-install-recommends $*"
  say "installing $* (Debian packages, a minute or two)"
  as_root env DEBIAN_FRONTEND=noninteractive apt-get update -qq >"$STATE/apt.log" 2>&1 || true
  as_root env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "$@" >>"$STATE/apt.log" 2>&1 \
    || fail "apt-get could not install $*. Its words are in .sirena/apt.log."
}

postgres_bin() { ls -d /usr/lib/postgresql/*/bin 2>/dev/null | sort -V | tail -1; }

need_postgres() {
  [ -x "$(postgres_bin)/postgres" ] && return
  # Debian would start a cluster of its own on 5432; ours is the only one we want.
  as_root mkdir -p /etc/postgresql-common/createcluster.d
  echo "create_main_cluster = false" | as_root tee /etc/postgresql-common/createcluster.d/sirena.conf >/dev/null
  install_packages postgresql
}

need_chromium() {
  [ -x /usr/bin/chromium ] && [ -x /usr/bin/chromedriver ] || install_packages chromium chromium-driver
}
