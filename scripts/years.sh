#!/usr/bin/env bash
# What a page costs one student after three years: 400 assignments and 20,000 events, right after the server has started
# (cold) and again (warm, the middle of nine), beside the first week of the same student. Makes a release build.
set -eu
cd "$(dirname "$0")/.."; ROOT=$PWD
. scripts/common.sh
need_tool cargo "Rust's cargo"; need_tool curl "curl"
need_postgres
say "Building (some minutes the first time)"
SQLX_OFFLINE=true cargo build --release -q -p server
folder=$(mktemp -d "${TMPDIR:-/tmp}/green-slate-years-XXXXXX")
server=
stop_server() { if [ -n "$server" ]; then kill "$server" 2>/dev/null || true; wait "$server" 2>/dev/null || true; server=; fi; }
finish() { stop_server; stop_postgres 2>/dev/null; rm -rf "$folder"; }
trap finish EXIT
start_postgres "$folder" 54941
export DATABASE_URL=$PG_URL/slate_years
gs=target/release/green-slate
cat >"$folder/world.yaml" <<'W'
school: Years
people:
  - {user_name: s0, name: Student, role: student}
classes:
  - title: Years
    members: [s0]
    assignments:
      - slug: first
        title: First
        kind: homework
        opens_in_days: -2
        due_in_days: 4
        settings: {max_attempts: null, max_sets: null}
        questions: [shadow-length, exact-height, shadow-model, two-distances, longer-shadow, true-statements, walking-away, scale-drawing]
W
"$gs" migrate >/dev/null; "$gs" bank load content/questions >/dev/null; "$gs" seed "$folder/world.yaml" >/dev/null
sql() { "$PG_BIN/psql" -qAt "$DATABASE_URL" -c "$1"; }
sql "insert into sessions (token_hash, person_id, created_at, expires_at)
     select sha256('tok0'::bytea), id, now(), now() + interval '7 days' from people"
start_server() {
  "$gs" serve --address 127.0.0.1:18098 >"$folder/serve.log" 2>&1 & server=$!
  for _ in $(seq 100); do (exec 3<>/dev/tcp/127.0.0.1/18098) 2>/dev/null && break; sleep 0.1; done
}
ask() { curl -s -o /dev/null -H 'cookie: slate_session=tok0' -H 'content-type: application/json' -w '%{http_code} %{time_total} %{size_download}' "$@"; }
measure() {
  printf '%s\n%-8s %10s %10s %10s\n' "$1" '' cold warm kB
  for page in week scores skills slips; do
    start_server
    # What belongs to the process and not to the student: the first connection, the router.
    ask "$base/me" >/dev/null
    read -r status cold size <<<"$(ask "$base/$page")"
    [ "$status" = 200 ] || stop_with "$page answers $status"
    warm=$(for _ in 1 2 3 4 5 6 7 8 9; do ask "$base/$page" | cut -d' ' -f2; done | sort -n | sed -n 5p)
    awk -v p="$page" -v c="$cold" -v w="$warm" -v s="$size" 'BEGIN { printf "%-8s %7.0f ms %7.1f ms %10.0f\n", p, c*1000, w*1000, s/1000 }'
    stop_server
  done
}
start_server
id=$(sql "select id from assignments")
base=http://127.0.0.1:18098/api
ask -X POST "$base/assignments/$id/open" >/dev/null
for n in $(seq 49); do
  ask -X POST "$base/assignments/$id/check" -d "{\"question\": $((n % 5 == 1 ? 1 : 0)), \"parts\": [{\"id\": \"a\", \"response\": \"$n.5\"}]}" >/dev/null
done
stop_server
measure "first week: $(sql 'select count(*) from assignments') assignment, $(sql 'select count(*) from events') events"
# The same work on 399 more assignments, one every three days.
sql "insert into assignments (id, class_id, slug, title, settings)
     select gen_random_uuid(), a.class_id, 'copy-' || n, 'Homework ' || n,
        jsonb_set(jsonb_set(jsonb_set(a.settings,
            '{opens}', to_jsonb(to_char(now() - make_interval(days => 3 * n + 9), 'YYYY-MM-DD\"T\"HH24:MI:SS\"Z\"'))),
            '{due}', to_jsonb(to_char(now() - make_interval(days => 3 * n), 'YYYY-MM-DD\"T\"HH24:MI:SS\"Z\"'))),
            '{closes}', to_jsonb(to_char(now() - make_interval(days => 3 * n), 'YYYY-MM-DD\"T\"HH24:MI:SS\"Z\"')))
     from assignments a, generate_series(1, 399) n where a.slug = 'first';
     insert into assignment_questions (assignment_id, position, question_id)
     select a.id, q.position, q.question_id from assignments a, assignment_questions q
     where a.slug like 'copy-%' and q.assignment_id = '$id';
     insert into works (id, assignment_id, student_id, last_event, seen_event, result_seen)
     select gen_random_uuid(), a.id, w.student_id, w.last_event, w.last_event, true from assignments a, works w where a.slug like 'copy-%';
     insert into events (work_id, number, at, body)
     select w.id, e.number, (a.settings->>'due')::timestamptz - interval '1 day' + e.number * interval '1 minute', e.body
     from works w join assignments a on a.id = w.assignment_id and a.slug like 'copy-%', events e, works first
     where first.assignment_id = '$id' and e.work_id = first.id;
     analyze"
"$gs" rebuild
measure "after three years: $(sql 'select count(*) from assignments') assignments, $(sql 'select count(*) from events') events"
