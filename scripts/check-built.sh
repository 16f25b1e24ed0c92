#!/usr/bin/env bash
# The built style sheet and scripts in the repository must be what their sources build to.
set -euo pipefail
root="$(cd "$(dirname "${BASH_SOURCE[0]}")/.." && pwd)"
cd "$root/web"
if ! cmp -s package-lock.json node_modules/.locked 2>/dev/null; then
    npm ci --no-audit --no-fund --silent
    cp package-lock.json node_modules/.locked
fi
built="$(mktemp -d)"
trap 'rm -rf "$built"' EXIT
node build.mjs "$built"
diff -r "$built" "$root/src/workshop/static/dist" >/dev/null || {
    echo "The built files are not current: run “npm run build” in web/ and commit src/workshop/static/dist." >&2
    exit 1
}
