#!/usr/bin/env bash
# Takes the pictures of the documents (docs/pictures.toml) from a demo shop of its own: take-pictures.sh [--out FOLDER] [NAME …]
set -euo pipefail
. "$(dirname "${BASH_SOURCE[0]}")/environment.sh"
command -v chromium >/dev/null || need_packages chromium
need_environment check
use_environment
folder="$(mktemp -d)"
chmod 755 "$folder"
KIZAMI_STATE_DIR="$folder/state" "$root/start" --port 8179 --feed-port 8180 >"$folder/log" 2>&1 &
shop=$!
trap 'kill "$shop" 2>/dev/null || true; wait "$shop" 2>/dev/null || true; rm -rf "$folder"' EXIT
until grep -q "Stop with" "$folder/log"; do
    kill -0 "$shop" 2>/dev/null || fail "the demo shop did not start: $(tail -1 "$folder/log")"
    sleep 1
done
"$python" "$root/scripts/take_pictures.py" --log "$folder/log" --address http://127.0.0.1:8179 "$@"
