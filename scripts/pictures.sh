#!/usr/bin/env bash
# Takes every picture in docs/screenshots from a fresh demo world. Look at each before it is committed.
set -euo pipefail
ROOT=$(cd "$(dirname "$0")/.." && pwd)
. "$ROOT/scripts/common.sh"
cd "$ROOT"
need_toolchains
need_postgres
export SQLX_OFFLINE=true
build_web
cargo build --locked --workspace --all-targets
FOLDER=$(state_folder pictures)
start_postgres "$FOLDER" 54896
trap discard_postgres EXIT
export DATABASE_URL="$PG_URL/postgres"
cargo test --locked --workspace -p journeys --test walks -- --ignored
say "Taken: docs/screenshots"
