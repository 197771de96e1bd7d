# How the command talks: steps on standard error, one sentence when it gives up.
say() { echo "sirena: $*" >&2; }
fail() { echo "sirena: $*" >&2; exit 1; }
