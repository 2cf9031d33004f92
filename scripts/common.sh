# Shared by ./demo and ./test: finding tools, installing Debian packages, and a PostgreSQL of our own on loopback.

say() { printf '\033[1m· %s\033[0m\n' "$*"; }
stop_with() { printf '%s\n' "$*" >&2; exit 1; }

as_admin() {
  if [ "$(id -u)" = 0 ]; then "$@"
  elif command -v sudo >/dev/null 2>&1 && sudo -n true 2>/dev/null; then sudo -n "$@"
  else return 97; fi
}

need_tool() { # command, what it is
  command -v "$1" >/dev/null 2>&1 || stop_with "Missing: $2 ($1). Please install it and run this again."
}

need_toolchains() {
  need_tool cargo "Rust's cargo"
  need_tool cc "a C compiler, gcc"
  need_tool node "Node.js 20 or newer"
  need_tool npm "npm"
  node -e 'process.exit(+process.versions.node.split(".")[0] >= 20 ? 0 : 1)' ||
    stop_with "Node.js $(node --version) is too old: version 20 or newer is needed."
}

install_packages() { # packages…
  say "Installing from Debian's packages: $*"
  local log; log=$(mktemp)
  if ! { as_admin apt-get update -qq && as_admin env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq "$@"; } >"$log" 2>&1; then
    if [ "$(id -u)" != 0 ] && ! { command -v sudo >/dev/null 2>&1 && sudo -n true 2>/dev/null; }; then
      stop_with "These Debian packages are missing and you have no right to install them: $*. Ask an administrator, or run this as root."
    fi
    tail -n 5 "$log" >&2
    stop_with "Installing $* did not work; the lines above say why."
  fi
  rm -f "$log"
}

postgres_bin() { ls -d /usr/lib/postgresql/*/bin 2>/dev/null | sort -V | tail -n 1; }

need_postgres() {
  [ -n "$(postgres_bin)" ] && [ -x "$(postgres_bin)/initdb" ] || install_packages postgresql
  PG_BIN=$(postgres_bin)
  [ -n "$PG_BIN" ] || stop_with "PostgreSQL's server was installed, but its programs are not under /usr/lib/postgresql."
}

# PostgreSQL refuses to run as root; then it runs as the user postgres, in a folder that user can reach.
as_postgres() { if [ "$(id -u)" = 0 ]; then (cd / && runuser -u postgres -- "$@"); else "$@"; fi; }

state_folder() { # name
  if [ "$(id -u)" = 0 ]; then echo "/var/lib/green-slate/$(printf %s "$ROOT" | cksum | cut -d' ' -f1)-$1"; else echo "$ROOT/.$1"; fi
}

port_taken() { (exec 3<>"/dev/tcp/127.0.0.1/$1") 2>/dev/null; }

start_postgres() { # folder, first port, extra options
  local folder=$1 port=$2; shift 2
  PG_FOLDER=$folder/postgres
  mkdir -p "$folder"; chmod 711 "$folder"
  if [ "$(id -u)" = 0 ]; then install -d -o postgres -m 700 "$PG_FOLDER"; else mkdir -p -m 700 "$PG_FOLDER"; fi
  if [ ! -s "$PG_FOLDER/password" ]; then
    head -c 24 /dev/urandom | od -An -tx1 | tr -d ' \n' >"$PG_FOLDER/password.new"
    if [ "$(id -u)" = 0 ]; then chown postgres "$PG_FOLDER/password.new"; fi
    chmod 600 "$PG_FOLDER/password.new"; mv "$PG_FOLDER/password.new" "$PG_FOLDER/password"
  fi
  if [ ! -s "$PG_FOLDER/data/PG_VERSION" ]; then
    rm -rf "$PG_FOLDER/data"
    as_postgres "$PG_BIN/initdb" -D "$PG_FOLDER/data" -U slate --pwfile "$PG_FOLDER/password" --auth=scram-sha-256 \
      -E UTF8 --locale=C.UTF-8 >"$folder/initdb.log" 2>&1 || { tail -n 5 "$folder/initdb.log" >&2; stop_with "PostgreSQL's data folder could not be made in $PG_FOLDER."; }
  fi
  if as_postgres "$PG_BIN/pg_ctl" -D "$PG_FOLDER/data" status >/dev/null 2>&1; then
    port=$(sed -n 4p "$PG_FOLDER/data/postmaster.pid")
  else
    local first=$port
    while port_taken "$port"; do
      port=$((port + 1))
      [ "$port" -lt $((first + 20)) ] || stop_with "No free port for PostgreSQL between $first and $port."
    done
    as_postgres "$PG_BIN/pg_ctl" -D "$PG_FOLDER/data" -w -t 60 -l "$PG_FOLDER/log" \
      -o "-c listen_addresses=127.0.0.1 -p $port -c unix_socket_directories= $*" start >/dev/null 2>&1 ||
      { tail -n 5 "$PG_FOLDER/log" >&2; stop_with "PostgreSQL did not start; its last lines are above."; }
  fi
  PG_PORT=$port
  PG_URL="postgres://slate:$(cat "$PG_FOLDER/password")@127.0.0.1:$port"
}

stop_postgres() {
  [ -n "${PG_FOLDER:-}" ] || return 0
  as_postgres "$PG_BIN/pg_ctl" -D "$PG_FOLDER/data" -m fast -w stop >/dev/null 2>&1 || true
}

# For a database of which nothing is kept.
discard_postgres() { stop_postgres; rm -rf "${PG_FOLDER:?}"; }

say_space() { say "Free on this disk: $(df -h --output=avail "$ROOT" | tail -n 1 | tr -d ' ')"; }

web_sources() { (cd "$ROOT/web" && find src public index.html package-lock.json tsconfig.json vite.config.ts -type f 2>/dev/null | LC_ALL=C sort | xargs cksum | cksum); }

build_web() { # builds only what changed
  cd "$ROOT/web"
  if [ "$(cat node_modules/.stamp 2>/dev/null)" != "$(cksum <package-lock.json)" ]; then
    say "Fetching the front end's packages (about a minute)"
    npm ci --no-audit --no-fund --loglevel=error || stop_with "npm could not fetch the packages of web/package-lock.json."
    cksum <package-lock.json >node_modules/.stamp
  fi
  if [ "$(cat dist/.stamp 2>/dev/null)" != "$(web_sources)" ]; then
    say "Building the front end"
    npm run --silent build || stop_with "The front end did not build."
    web_sources >dist/.stamp
  fi
  cd "$ROOT"
}
