#!/usr/bin/env bash
# What the sheet of a large class costs: 200 students with 40 assignments. The middle of nine requests, and the bytes.
# `GREEN_SLATE=target/debug/green-slate scripts/sheet.sh` measures that binary; else a release build is made.
set -eu
cd "$(dirname "$0")/.."; ROOT=$PWD
. scripts/common.sh
need_tool cargo "Rust's cargo"; need_tool curl "curl"
need_postgres
gs=${GREEN_SLATE:-}
if [ -z "$gs" ]; then
  say "Building (some minutes the first time)"
  SQLX_OFFLINE=true cargo build --release -q -p server
  gs=target/release/green-slate
fi
folder=$(mktemp -d "${TMPDIR:-/tmp}/green-slate-sheet-XXXXXX")
server=
finish() { if [ -n "$server" ]; then kill "$server" 2>/dev/null || true; wait "$server" 2>/dev/null || true; fi; stop_postgres 2>/dev/null; rm -rf "$folder"; }
trap finish EXIT
start_postgres "$folder" 54951
export DATABASE_URL=$PG_URL/slate_sheet
"$gs" migrate >/dev/null; "$gs" bank load content/questions >/dev/null; "$gs" seed content/world.yaml >/dev/null
class=01900000-0000-7000-8000-00000000aaaa
"$PG_BIN/psql" -qAt "$DATABASE_URL" <<S
insert into classes (id, title) values ('$class', 'Two hundred');
insert into class_members (class_id, person_id) select '$class', id from people where user_name = 'maren';
insert into people (id, user_name, display_name, password_hash, role)
  select gen_random_uuid(), 'big' || n, 'Student ' || n, 'none', 'student' from generate_series(1, 200) n;
insert into class_members (class_id, person_id) select '$class', id from people where user_name like 'big%';
insert into assignments (id, class_id, slug, title, settings)
  select gen_random_uuid(), '$class', 'big' || n, 'Assignment ' || n,
    (select settings from assignments where slug = 'lines-and-roots') from generate_series(1, 40) n;
insert into works (id, assignment_id, student_id, last_event, sheet, sheet_version, active_seconds, active_at)
  select gen_random_uuid(), a.id, p.id, 5,
    (select sheet from works w join assignments l on l.id = w.assignment_id where l.slug = 'lines-and-roots' limit 1),
    1, 1500, now()
  from assignments a, people p where a.slug like 'big%' and p.user_name like 'big%';
insert into sessions (token_hash, person_id, created_at, expires_at)
  select sha256('tok0'::bytea), id, now(), now() + interval '7 days' from people where user_name = 'maren';
analyze;
S
"$gs" serve --address 127.0.0.1:18097 >"$folder/serve.log" 2>&1 & server=$!
until curl -s -o /dev/null http://127.0.0.1:18097/; do kill -0 "$server" || exit 1; sleep 0.1; done
for _ in 1 2 3 4 5 6 7 8 9; do
  curl -s -o "$folder/out" -w '%{time_total} %{size_download}\n' -H 'Accept-Encoding: gzip' -b slate_session=tok0 \
    "http://127.0.0.1:18097/api/classes/$class/sheet"
done | sort -n | sed -n '5{s/\(.*\) \(.*\)/The sheet of 200 students and 40 assignments: \1 s, \2 bytes (gzip)/;p}'
