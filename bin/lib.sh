# Shared by bin/start, bin/stop, bin/test: where things are, and what must be installed. Sourced, not run.

root=$(cd "$(dirname "${BASH_SOURCE[0]}")/.." && pwd)
export KAISEKI_HOME=${KAISEKI_HOME:-$root/var}
case $KAISEKI_HOME in /*) ;; *) KAISEKI_HOME=$PWD/$KAISEKI_HOME ;; esac

# What the application's account writes, each a folder of its own.
account_folders=(log run tmp keys cache storage stores index names runs hosts marks serving annexes medium enrolments agents mail mirrors)

fail() { printf '%s: %s\n' "$(basename "$0")" "$*" >&2; exit 1; }

# A socket's name may have 107 bytes, and the servers' configuration files know no quoting: say so before anything is made.
check_home() {
  [[ $KAISEKI_HOME =~ ^/[A-Za-z0-9._/@+-]+$ ]] || fail "KAISEKI_HOME may hold letters, digits and . _ / @ + - only: $KAISEKI_HOME"
  [ ${#KAISEKI_HOME} -le 80 ] ||
    fail "KAISEKI_HOME is ${#KAISEKI_HOME} characters long; at most 80 leave room for the names of sockets: $KAISEKI_HOME"
}

as_root() {
  if [ "$(id -u)" = 0 ]; then "$@"; elif command -v sudo >/dev/null; then sudo "$@"; else fail "not root and no sudo, cannot run: $*"; fi
}

# need_packages FILE=PACKAGE ... installs the packages whose file (a program's path or a PHP extension's ini) is missing.
# No service is started by the installation: the application runs its own.
need_packages() {
  local pair missing=()
  for pair in "$@"; do [ -e "${pair%%=*}" ] || missing+=("${pair#*=}"); done
  [ ${#missing[@]} -gt 0 ] || return 0
  echo "Installing ${missing[*]} ..."
  local deny=/usr/sbin/policy-rc.d ours=
  if [ ! -e $deny ]; then ours=1; printf '#!/bin/sh\nexit 101\n' | as_root tee $deny >/dev/null; as_root chmod 755 $deny; fi
  local ok=0
  {
    as_root apt-get update -q &&
      as_root env DEBIAN_FRONTEND=noninteractive apt-get install -q -y --no-install-recommends "${missing[@]}"
  } >"$(log_folder)/install.log" 2>&1 || ok=1
  [ -z "$ours" ] || as_root rm -f $deny
  [ $ok = 0 ] && return 0
  tail -n 20 "$(log_folder)/install.log" >&2
  fail "Debian's packages could not be installed: see $(log_folder)/install.log"
}

ini=/etc/php/8.2/cli/conf.d
runtime_packages=(
  /usr/bin/php8.2=php8.2-cli /usr/sbin/php-fpm8.2=php8.2-fpm $ini/20-pdo_mysql.ini=php8.2-mysql $ini/20-mbstring.ini=php8.2-mbstring
  $ini/20-xmlreader.ini=php8.2-xml $ini/20-zip.ini=php8.2-zip $ini/20-intl.ini=php8.2-intl
  $ini/20-curl.ini=php8.2-curl $ini/20-gd.ini=php8.2-gd
  /usr/sbin/mariadbd=mariadb-server-core /usr/bin/mariadb=mariadb-client /usr/sbin/nginx=nginx-light
  /usr/bin/supervisord=supervisor /usr/bin/composer=composer /usr/bin/unzip=unzip /usr/bin/flock=util-linux
  /usr/bin/pkill=procps /usr/bin/bsdtar=libarchive-tools /usr/bin/pdftotext=poppler-utils /usr/bin/getfacl=acl
)

# Composer's packages, again whenever composer.json has changed since. Two starts at once wait for each other.
need_vendor() {
  local stamp
  stamp=$(sha256sum <"$root/composer.json")
  [ "$(cat "$root/vendor/.kaiseki-stamp" 2>/dev/null)" = "$stamp" ] && return 0
  mkdir -p "$root/vendor"
  (
    flock 9
    [ "$(cat "$root/vendor/.kaiseki-stamp" 2>/dev/null)" = "$stamp" ] && exit 0
    echo "Installing Composer's packages ..."
    cd "$root"
    COMPOSER_ALLOW_SUPERUSER=1 COMPOSER_CACHE_DIR="$(temporary_folder)/composer" \
      composer update --no-interaction --no-progress --quiet >"$(log_folder)/composer.log" 2>&1 ||
      { tail -n 20 "$(log_folder)/composer.log" >&2; exit 1; }
    printf '%s\n' "$stamp" >"$root/vendor/.kaiseki-stamp"
  ) 9>"$root/vendor/.lock" || fail "Composer's packages could not be installed: see $(log_folder)/composer.log"
}

# Behind walls what this script writes lies where only root may enter.
log_folder() { if has_walls; then echo "$walls_folder/log"; else echo "$KAISEKI_HOME/log"; fi; }
temporary_folder() { if has_walls; then echo "$walls_folder/tmp"; else echo "$KAISEKI_HOME/tmp"; fi; }

make_home() {
  check_home
  ( umask 077; mkdir -p "$KAISEKI_HOME" )
  chmod 700 "$KAISEKI_HOME"
  (
    umask 077
    cd "$KAISEKI_HOME"
    mkdir -p "${account_folders[@]}" sql/{tmp,fares-tmp} storage/{logs,app} storage/framework/{views,sessions,cache/data,testing}
  )
  # Of an installation from before they were closed, and lay here.
  chmod -R go-rwx "$KAISEKI_HOME"/{run,keys,cache,log,tmp,storage,.env} 2>/dev/null || true
  for mark in demo.done has-users; do
    [ ! -e "$KAISEKI_HOME/$mark" ] || mv "$KAISEKI_HOME/$mark" "$KAISEKI_HOME/marks/$mark"
  done
  ( umask 077; [ -e "$KAISEKI_HOME/.env" ] || : >"$KAISEKI_HOME/.env" )
  [ -s "$KAISEKI_HOME/keys/app.key" ] ||
    ( umask 077; printf 'base64:%s\n' "$(head -c 32 /dev/urandom | base64)" >"$KAISEKI_HOME/keys/app.key" )
}

# supervisord_pid prints the pid of this home's first supervisor if it runs; a pid left over from a power cut is not ours.
supervisord_pid() {
  local pid file=$KAISEKI_HOME/run/supervisord.pid configuration=$KAISEKI_HOME/supervisord.conf
  if has_walls; then file=$walls_folder/supervisord.pid configuration=$walls_folder/supervisord.conf; fi
  pid=$(cat "$file" 2>/dev/null) || return 1
  [ -n "$pid" ] && tr '\0' '\n' <"/proc/$pid/cmdline" 2>/dev/null | grep -qxF "$configuration" && echo "$pid"
}

# A program of a supervisor, as its configuration file has it.
supervised() { # NAME PRIORITY AUTOSTART SECONDS-TO-END FOLDER-OF-LOGS DIRECTORY COMMAND
  cat <<T
[program:$1]
command=$7
priority=$2
autostart=$3
autorestart=true
startsecs=1
startretries=20
stopasgroup=true
killasgroup=true
stopwaitsecs=$4
redirect_stderr=true
stdout_logfile=$5/$1.log
stdout_logfile_maxbytes=10MB
stdout_logfile_backups=2
directory=$6
T
}

control() { supervisorctl -c "$KAISEKI_HOME/supervisord.conf" "$@"; }

# The account that a database server of this home runs as.
database_account() { if has_walls; then echo "$db_account"; else id -un; fi; }

as_database() { if has_walls; then as_account "$db_account" "$@"; else "$@"; fi; }

# make_database_folder [NAME]: the folder of a server, ready to run; whole or not there. What it makes for a moment has names with the
# number of its process, which another installation's may have too behind its own walls: so it lies here.
make_database_folder() {
  local name=${1:-db} log tmp=tmp
  [ "$name" = db ] || tmp=fares-tmp
  [ -d "$KAISEKI_HOME/$name/mysql" ] && return 0
  log=$(log_folder)/install-$name.log
  rm -rf "${KAISEKI_HOME:?}/$name" "$KAISEKI_HOME/sql/$name.new"
  as_database mariadb-install-db --no-defaults --user="$(database_account)" --datadir="$KAISEKI_HOME/sql/$name.new" --basedir=/usr \
    --tmpdir="$KAISEKI_HOME/sql/$tmp" \
    --auth-root-authentication-method=socket --auth-root-socket-user="$(database_account)" --skip-test-db --skip-name-resolve \
    --innodb-log-file-size=64M >"$log" 2>&1 || fail "the database could not be made: see $log"
  mv "$KAISEKI_HOME/sql/$name.new" "$KAISEKI_HOME/$name"
}

# The database is reached through a socket in a folder that only this user may enter, and through no port at all.
# A quarter of the machine's memory, between 256 MiB and 1 GiB.
database_memory() {
  awk '/^MemTotal/ { m = int($2 / 4096); print (m < 256 ? 256 : m > 1024 ? 1024 : m) "M" }' /proc/meminfo
}

database_command() {
  printf '%s ' /usr/sbin/mariadbd --no-defaults "--user=$(database_account)" "--datadir=$KAISEKI_HOME/db" \
    "--tmpdir=$KAISEKI_HOME/sql/tmp" "--socket=$KAISEKI_HOME/sql/db.sock" "--pid-file=$KAISEKI_HOME/sql/db.pid" \
    --skip-networking --skip-name-resolve \
    "--innodb-buffer-pool-size=$(database_memory)" --innodb-log-file-size=256M --innodb-flush-log-at-trx-commit=1 --max-allowed-packet=64M \
    --character-set-server=utf8mb4 --collation-server=utf8mb4_uca1400_ai_ci --performance-schema=0 --local-infile=1 \
    --innodb-ft-min-token-size=2 --innodb-ft-enable-stopword=OFF
}

wait_for_database() {
  local i
  for ((i = 0; i < 300; i++)); do
    mariadb-admin --no-defaults --socket="$KAISEKI_HOME/sql/db.sock" ping >/dev/null 2>&1 && return 0
    sleep 0.1
  done
  fail "the database did not answer within 30 s: see $(log_folder)/database.log"
}

make_schema() { mariadb --no-defaults --socket="$KAISEKI_HOME/sql/db.sock" -e "CREATE DATABASE IF NOT EXISTS \`${1:-kaiseki}\`"; }

. "$root/bin/walls/lib.sh"
