#!/usr/bin/env bash
# Asks every route of a demo server for all sorts of things, meant and not meant, as a signed-in student, and holds each
# answer against openapi.json: schemathesis (PyPI). Not part of ./test. What is given as options goes to schemathesis.
set -euo pipefail
ROOT=$(cd "$(dirname "$0")/.." && pwd)
. "$ROOT/scripts/common.sh"
cd "$ROOT"
need_toolchains
need_postgres
need_tool python3 "Python 3 with venv"
export SQLX_OFFLINE=true
cargo build --locked -q --workspace --all-targets
FOLDER=$(state_folder fuzz)
if [ ! -x "$FOLDER/venv/bin/schemathesis" ]; then
  mkdir -p "$FOLDER"
  python3 -m venv "$FOLDER/venv"
  "$FOLDER/venv/bin/pip" install -q 'schemathesis>=4,<5'
fi
PG_FOLDER=$FOLDER/postgres; stop_postgres; rm -rf "$FOLDER/postgres"
start_postgres "$FOLDER" 54921
SERVER=
finish() { if [ -n "$SERVER" ]; then kill "$SERVER" 2>/dev/null || true; wait "$SERVER" 2>/dev/null || true; fi; stop_postgres; }
trap finish EXIT
trap 'exit 130' INT TERM
export DATABASE_URL="$PG_URL/green_slate"
gs=${CARGO_TARGET_DIR:-target}/debug/green-slate
"$gs" migrate; "$gs" bank load content/questions >/dev/null; "$gs" seed content/world.yaml
"$gs" serve --address 127.0.0.1:18099 >"$FOLDER/serve.log" 2>&1 & SERVER=$!
until port_taken 18099; do kill -0 "$SERVER" 2>/dev/null || stop_with "The server did not start."; sleep 0.1; done
cookie=$(curl -s -o /dev/null -c - -H 'content-type: application/json' -d '{"user_name": "ebba", "password": "lichen-41"}' \
  http://127.0.0.1:18099/api/session | awk '/slate_session/ { print $NF }')
[ -n "$cookie" ] || stop_with "Ebba cannot sign in."
# An assignment of hers, so that more is reached than "not found".
id=$("$PG_BIN/psql" -qAt "$DATABASE_URL" -c "select a.id from assignments a where a.slug = 'tower-shadows'")
[ -n "$id" ] || stop_with "There is no assignment tower-shadows."
cat >"$FOLDER/schemathesis.toml" <<C
[[operations]]
include-path-regex = "^/api/assignments/"
parameters = { "path.id" = "$id" }
C
curl -s -o /dev/null -X POST -b "slate_session=$cookie" "http://127.0.0.1:18099/api/assignments/$id/open"
# Signing out would end the session for everything after it; what a valid body may still be refused for (a key that is no
# field of the question, a date that is over) is no fault, so accepting all of them is not asked for.
checks=not_a_server_error,status_code_conformance,content_type_conformance,response_schema_conformance,unsupported_method
st() { "$FOLDER/venv/bin/schemathesis" "$@"; }
ask=(run openapi.json --url http://127.0.0.1:18099 -H "Cookie: slate_session=$cookie" --exclude-path-regex '^/api/session$'
  --phases examples,coverage,fuzzing --request-timeout 10)
say "All sorts of addresses and bodies"
st "${ask[@]}" --checks "$checks,negative_data_rejection" "$@"
say "The same for an assignment that is there"
st --config-file "$FOLDER/schemathesis.toml" "${ask[@]}" --include-path-regex '^/api/assignments/' --checks "$checks" "$@"
if grep -q '"level":"ERROR"' "$FOLDER/serve.log"; then grep '"level":"ERROR"' "$FOLDER/serve.log" | head; stop_with "The server logged errors."; fi
say "Nothing found."
