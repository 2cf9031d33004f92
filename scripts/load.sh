#!/usr/bin/env bash
# Students at a human pace against a release build, and in the same run PostgreSQL's own single-row inserts (pgbench, 8
# clients): one table. Options go to the load program: scripts/load.sh --students 2000 --seconds 60
set -eu
cd "$(dirname "$0")/.."; ROOT=$PWD
. scripts/common.sh
need_tool cargo "Rust's cargo"
need_postgres
students=2000; args=("$@")
for i in "${!args[@]}"; do if [ "${args[$i]}" = --students ]; then students=${args[$((i + 1))]}; fi; done
say "Building (some minutes the first time)"
SQLX_OFFLINE=true cargo build --release -q -p server -p load
folder=$(mktemp -d "${TMPDIR:-/tmp}/green-slate-load-XXXXXX")
server=
finish() { [ -n "$server" ] && kill "$server" 2>/dev/null; stop_postgres "$folder" 2>/dev/null; rm -rf "$folder"; }
trap finish EXIT
start_postgres "$folder" 54921 -c max_connections=100
export DATABASE_URL=$PG_URL/slate_load
gs=target/release/green-slate
{
  echo "school: Load"; echo "people:"
  for i in $(seq 0 $((students - 1))); do echo "  - {user_name: s$i, name: Student $i, role: student}"; done
  echo "classes:"; echo "  - title: Load"; printf "    members: ["
  for i in $(seq 0 $((students - 1))); do printf "s%s, " "$i"; done; echo "s0]"
  cat <<'W'
    assignments:
      - slug: load-a
        title: Load A
        kind: homework
        opens_in_days: -2
        due_in_days: 4
        settings: {max_attempts: null, max_sets: null}
        questions: [shadow-length, exact-height, shadow-model, two-distances, longer-shadow, true-statements, walking-away, scale-drawing]
W
} >"$folder/world.yaml"
"$gs" migrate >/dev/null; "$gs" bank load content/questions >/dev/null; "$gs" seed "$folder/world.yaml" >/dev/null
sql() { "$PG_BIN/psql" -qAt "$DATABASE_URL" -c "$1"; }
sql "insert into sessions (token_hash, person_id, created_at, expires_at)
     select sha256(('tok' || substr(user_name, 2))::bytea), id, now(), now() + interval '7 days' from people"
sql "create table one_row (id bigserial primary key, a uuid, b jsonb)"
echo "insert into one_row (a, b) values (gen_random_uuid(), '{\"kind\": \"checked\", \"question\": 1}');" >"$folder/one.sql"
"$gs" serve --address 127.0.0.1:18097 >"$folder/serve.log" 2>&1 & server=$!
for _ in $(seq 100); do (exec 3<>/dev/tcp/127.0.0.1/18097) 2>/dev/null && break; sleep 0.1; done
status=0
target/release/load --server http://127.0.0.1:18097 --assignment "$(sql 'select id from assignments')" "$@" || status=$?
printf 'pgbench, single-row inserts, 8 clients: '
"$PG_BIN/pgbench" -n -c 8 -j 2 -T 6 -f "$folder/one.sql" "$DATABASE_URL" 2>/dev/null | awk '/^tps/{printf "%.0f a second\n", $3}'
exit $status
