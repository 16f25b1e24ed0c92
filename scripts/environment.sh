# Sourced by the commands: makes sure of what they need, and says in one sentence what is missing.
# shellcheck shell=bash

say() { printf '%s\n' "$*" >&2; }
fail() { say "Kizami: $*"; exit 1; }

root="$(cd "$(dirname "${BASH_SOURCE[0]}")/.." && pwd)"

# need_packages PACKAGE ... — installs Debian packages with whatever right there is.
need_packages() {
    local as=()
    if [ "$(id -u)" != 0 ]; then
        command -v sudo >/dev/null || fail "these packages are missing and there is no sudo: $*. Have them installed, then start again."
        as=(sudo)
    fi
    say "Installing $* …"
    local log
    log="$(mktemp)"
    # Two that install at once take turns.
    local apt=("${as[@]}" env DEBIAN_FRONTEND=noninteractive apt-get -qq -o DPkg::Lock::Timeout=300)
    "${apt[@]}" update >"$log" 2>&1 || true
    "${apt[@]}" install -y --no-install-recommends "$@" >>"$log" 2>&1 \
        || fail "could not install $*; see $log."
    rm -f "$log"
}

# everybody_runs PYTHON — whether a user without rights can run it: the programs never run as root.
everybody_runs() {
    [ "$(id -u)" != 0 ] || runuser -u nobody -- "$1" -c '' 2>/dev/null
}

# some_python — a Python that is new enough, rather one that every user can run.
some_python() {
    local found="" candidate
    for candidate in "$(command -v python3.11)" "$(command -v python3)" /usr/bin/python3.11 /usr/bin/python3; do
        [ -x "$candidate" ] && "$candidate" -c 'import sys; sys.exit(sys.version_info < (3, 11))' 2>/dev/null || continue
        if everybody_runs "$candidate"; then printf '%s' "$candidate"; return; fi
        found="${found:-$candidate}"
    done
    [ -n "$found" ] && printf '%s' "$found"
}

# need_environment NAME — a virtual environment with the locked packages of requirements/NAME.lock.
need_environment() {
    local lock="$root/requirements/$1.lock" want have=""
    local python
    python="$(some_python)" || fail "Python 3.11 or later is missing. Run: apt-get install python3"
    # Made with a Python that the programs' own user can't run: made again with one that it can.
    if [ -x "$root/.venv/bin/python" ] && ! everybody_runs "$root/.venv/bin/python" && everybody_runs "$python"; then
        rm -rf "$root/.venv"
    fi
    if ! "$python" -c 'import ensurepip, venv' 2>/dev/null; then
        need_packages python3-venv
    fi
    want="$(sha256sum "$lock" | cut -d' ' -f1)"
    [ -f "$root/.venv/locked" ] && have="$(cat "$root/.venv/locked")"
    # The packages for checking contain those for running, in the same versions.
    if [ "$have" = "$want" ] || [ "$have" = "$(sha256sum "$root/requirements/check.lock" | cut -d' ' -f1)" ]; then
        return
    fi
    say "Setting up the virtual environment (once) …"
    [ -x "$root/.venv/bin/python" ] || "$python" -m venv "$root/.venv" || fail "could not make $root/.venv; have you the right to write there?"
    "$root/.venv/bin/python" -m pip install --quiet --disable-pip-version-check --require-hashes -r "$lock" 2>"$root/.venv/pip.log" \
        || { tail -n 5 "$root/.venv/pip.log" >&2; fail "could not install the packages of $lock; is there a network?"; }
    echo "$want" >"$root/.venv/locked"
}

has_postgresql() { compgen -G '/usr/lib/postgresql/*/bin/initdb' >/dev/null; }

need_postgresql() { has_postgresql || need_packages postgresql; }

use_environment() {
    export PYTHONPATH="$root/src"
    export PYTHONDONTWRITEBYTECODE="${PYTHONDONTWRITEBYTECODE-}"
    python="$root/.venv/bin/python"
}
