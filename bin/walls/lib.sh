# The walls of an installation that root starts: four accounts that are not root, and what each may see. Sourced by bin/lib.sh.
# docs/decisions/0029 says why they stand as they do.

app_account=kaiseki db_account=kaiseki-db host_account=kaiseki-host vm_account=kaiseki-vm
walls_folder=$KAISEKI_HOME/root # what root alone may enter: its supervisor, and which folders of hosts are given to Kaiseki

has_walls() { [ -e "$KAISEKI_HOME/walls" ]; } # which only root can make, as the home is root's then

# full: with mount namespaces. narrow: accounts only, where this system lets nobody mount.
can_mount() {
  unshare --mount --propagation private sh -c \
    'mount -t tmpfs -o size=4k x /mnt && mount --bind /usr /mnt && mount -o remount,bind,ro /mnt' 2>/dev/null
}

make_accounts() {
  local name
  for name in "$app_account" "$db_account" "$host_account" "$vm_account"; do
    id -u "$name" >/dev/null 2>&1 ||
      useradd --system --user-group --no-create-home --home-dir /nonexistent --shell /usr/sbin/nologin "$name"
  done
}

# privileges ACCOUNT [CAPABILITY...] prints what setpriv takes.
privileges() {
  local account=$1 capabilities=-all capability; shift
  for capability in "$@"; do capabilities+=",+$capability"; done
  printf '%s ' --reuid "$account" --regid "$account" --clear-groups --no-new-privs "--bounding-set=$capabilities" \
    "--inh-caps=$capabilities" "--ambient-caps=$capabilities"
}

may_enter() { setpriv $(privileges "$1") test -x "$2"; }

# The topmost folder above a place that the application's account may not enter; nothing if it may enter all.
closed_above() {
  local folder= part
  while IFS= read -r part; do
    [ -n "$part" ] || continue
    folder+=/$part
    [ "$folder" != "$1" ] || return 0
    if [ -d "$folder" ] && ! may_enter "$app_account" "$folder" 2>/dev/null; then echo "$folder"; return 0; fi
  done < <(tr / '\n' <<<"$1")
}

# Those above checkout and home.
closed_folders() { { closed_above "$root"; closed_above "$KAISEKI_HOME"; } | sort -u; }

# Root's own folder first: nothing of what the accounts may write lies above anything that root writes.
make_walled_home() {
  local folder
  make_accounts
  mkdir -p -m 0700 "$walls_folder" "$walls_folder/log" "$walls_folder/tmp"
  chown root:root "$KAISEKI_HOME"
  chmod 0711 "$KAISEKI_HOME"
  for folder in "${account_folders[@]}"; do own_folder "$app_account" 0700 "$folder"; done
  own_folder "$db_account" 0711 sql
  own_folder "$db_account" 0700 sql/tmp
  own_folder "$db_account" 0700 sql/fares-tmp
  own_folder "$host_account" 0750 host
  chgrp "$app_account" "$KAISEKI_HOME/host"
  [ -d "$KAISEKI_HOME/restored" ] || mkdir -m 0711 "$KAISEKI_HOME/restored"
  for folder in "$KAISEKI_HOME"/vm/*/; do [ ! -d "$folder" ] || own_hypervisor "$folder"; done
  for folder in db fares-db; do [ ! -d "$KAISEKI_HOME/$folder" ] || own_folder "$db_account" 0700 "$folder"; done
}

# own_folder ACCOUNT MODE NAME: given over as a whole where it is not that account's yet, as in a home from before the walls.
own_folder() {
  local folder=$KAISEKI_HOME/$3
  [ -d "$folder" ] || mkdir -m "$2" "$folder"
  [ "$(stat -c %U "$folder")" = "$1" ] || chown -hR "$1:$1" "$folder"
  chmod "$2" "$folder"
}

# A stand-in hypervisor is reached by the application at a socket in its folder, and opens disks for it at others; it can do no more there.
own_hypervisor() {
  chown -hR "$vm_account:$app_account" "$1"
  chmod 2750 "$1"
}

# as_account ACCOUNT COMMAND...: with the eyes of the running application where closed folders hide checkout and home.
as_account() {
  local account=$1; shift
  KAISEKI_HOME=$KAISEKI_HOME "$root/bin/walls/enter" "$account" -- "$@"
}

# What is given to Kaiseki for good: in each line of a file that only root can write a host's name, a tab, and a folder of it.
# For each there is a process of its own, so that giving one disturbs no other, and none sees what another was given.
given() { cat "$KAISEKI_HOME/given" 2>/dev/null || true; }

host_key() { printf '%s\t%s' "$1" "$2" | md5sum | head -c 16; }
host_socket() { echo "$KAISEKI_HOME/host/$(host_key "$1" "$2").sock"; }

write_given() {
  ( umask 022; sort -u >"$KAISEKI_HOME/given.new" )
  mv "$KAISEKI_HOME/given.new" "$KAISEKI_HOME/given"
}

give_folder() { # HOST FOLDER
  [[ $1 =~ ^[A-Za-z0-9][A-Za-z0-9._-]{0,99}$ ]] || fail "a host's name has letters, digits, dots, dashes and underscores: $1"
  [[ $2 = /* && $2 != / && $2 != *[$'\n\t%"\\']* ]] || fail "a folder is given by its whole path, without quotes, tabs, percent signs: $2"
  [ -d "$2" ] || fail "there is no folder $2"
  ! given | grep -qxF -- "$1"$'\t'"$2" || return 0
  { given; printf '%s\t%s\n' "$1" "$2"; } | write_given
  renew_hosts
  ! supervisord_pid >/dev/null || wait_for_socket "$(host_socket "$1" "$2")"
}

# The original of a workload, and where things are brought beside it.
give_source() { # FOLDER
  local beside
  beside=$(dirname "$1")/restored
  give_folder here "$1"
  mkdir -p -m 0711 -- "$beside"
  give_folder here "$beside"
}

take_folder() { # HOST FOLDER
  given | grep -qxF -- "$1"$'\t'"$2" || fail "$2 was not given on the host $1"
  { given | grep -vxF -- "$1"$'\t'"$2" || true; } | write_given
  renew_hosts
}

renew_hosts() {
  supervisord_pid >/dev/null || return 0
  host_programs
  supervisorctl -c "$walls_folder/supervisord.conf" update >/dev/null
}

wait_for_socket() {
  local i
  for ((i = 0; i < 200; i++)); do [ ! -S "$1" ] || return 0; sleep 0.05; done
  fail "the process of the host did not begin: see $walls_folder/log/"
}

wait_for_hosts() {
  local name folder
  while IFS=$'\t' read -r name folder; do [ ! -d "$folder" ] || wait_for_socket "$(host_socket "$name" "$folder")"; done < <(given)
}

# One program for each folder, in a file that root's supervisor includes. A folder that is gone may come back.
host_programs() {
  local name folder
  {
    while IFS=$'\t' read -r name folder; do
      [ ! -d "$folder" ] || root_program "host-$name-$(host_key "$name" "$folder")" 12 "$root/bin/walls/host $name \"$folder\""
    done < <(given)
    command_programs
  } >"$walls_folder/hosts.conf"
}

root_program() { # NAME PRIORITY COMMAND [AUTOSTART]
  supervised "$1" "$2" "${4:-true}" 60 "$walls_folder/log" / "$3"
}

# At a start by root: the walls of the home, or why there are none. What cannot be had is said.
build_walls() {
  ( umask 077; mkdir -p "$KAISEKI_HOME" )
  local kind=full
  make_accounts
  can_mount || kind=narrow
  if [ $kind = narrow ] && [ -n "$(closed_folders)" ]; then
    echo "Everything runs as root: this system lets nobody mount, and $(closed_folders | head -n 1) is closed to other accounts."
    echo "Put checkout and home where others may enter, and Kaiseki runs as accounts of its own."
    tear_walls
    return
  fi
  [ -e "$KAISEKI_HOME/given" ] || [ ! -d "$KAISEKI_HOME/db/mysql" ] || walls_are_new=1
  has_walls || make_home
  make_walled_home
  printf '%s\n' $kind >"$KAISEKI_HOME/walls"
  [ -e "$KAISEKI_HOME/given" ] || give_folder here "$KAISEKI_HOME/restored"
}

# A home that is not walled any more is its starter's own again.
tear_walls() {
  has_walls || return 0
  [ "$(id -u)" = 0 ] || fail "root started Kaiseki with this home: only root can start it"
  ! supervisord_pid >/dev/null || fail "Kaiseki runs behind walls: stop it first"
  rm -f "$KAISEKI_HOME/walls"
  chown -hR root:root "$KAISEKI_HOME"/{db,fares-db,sql,host,vm} "${account_folders[@]/#/$KAISEKI_HOME/}" 2>/dev/null || true
}

# A home from before the walls: what root's own Kaiseki read and wrote is given, and what its account cannot use is told.
give_what_was_known() {
  local host folder name
  while IFS=$'\t' read -r host folder; do
    if [ ! -d "$folder" ]; then
      echo "There is no folder $folder now: when it is back, bin/kaiseki roots give $folder $host"
    elif [ "$host" = here ]; then give_source "$folder"
    else give_folder "$host" "$folder"; fi
  done < <(owner_says db "SELECT 'here', source FROM kaiseki.workloads WHERE source IS NOT NULL
    UNION SELECT name, folder FROM kaiseki.hosts WHERE kind = 'folder'")
  while IFS=$'\t' read -r name folder; do
    [[ $folder != "$KAISEKI_HOME"/* && -d $folder ]] && ! as_account "$app_account" test -r "$folder" || continue
    echo "The store $name lies in $folder, which the account $app_account cannot read: chown -R $app_account $folder"
  done < <(owner_says db "SELECT name, root FROM kaiseki.stores WHERE kind <> 'object'")
}

can_read_checkout() {
  as_account "$app_account" test -r "$root/vendor/autoload.php" -a -r "$root/core/Instant.php" ||
    fail "the account $app_account cannot read this checkout: chmod -R o+rX $root (or start with KAISEKI_ONE_ACCOUNT=1, all as root)"
}

as_application() { if has_walls; then as_account "$app_account" "$@"; else (cd "$root" && "$@"); fi; }

# Migrating is done by the owner of the database, who has a small home of its own beside the socket.
as_migrating() {
  if ! has_walls; then (cd "$root" && "$@"); return; fi
  local home=$KAISEKI_HOME/sql/home
  as_account "$db_account" mkdir -p "$home"/{cache,log,run,tmp,keys,storage/framework/{views,cache/data,sessions},storage/logs}
  [ -L "$home/sql" ] || as_account "$db_account" ln -s .. "$home/sql"
  as_account "$db_account" env "KAISEKI_HOME=$home" "$@"
}

owner_says() { mariadb --no-defaults --batch --skip-column-names --socket="$KAISEKI_HOME/sql/$1.sock" -e "$2"; }

grant_migrating() {
  owner_says db "CREATE USER IF NOT EXISTS '$db_account'@localhost IDENTIFIED VIA unix_socket;
    GRANT ALL ON *.* TO '$db_account'@localhost WITH GRANT OPTION"
}

# The desk's account, table by table: the trail can be added to and read. It has no right over schemas, files or the server.
grant_application() {
  local grants
  owner_says db "CREATE USER IF NOT EXISTS '$app_account'@localhost IDENTIFIED VIA unix_socket;
    REVOKE ALL PRIVILEGES, GRANT OPTION FROM '$app_account'@localhost"
  grants=$(owner_says db "SELECT CONCAT('GRANT SELECT', CASE WHEN table_name IN ('trail_rule', 'trail_expired') THEN ''
      WHEN table_name LIKE 'trail%' THEN ', INSERT' ELSE ', INSERT, UPDATE, DELETE' END,
    ' ON kaiseki.\`', table_name, '\` TO \\'$app_account\\'@localhost;') FROM information_schema.tables WHERE table_schema = 'kaiseki'")
  grants+=" GRANT EXECUTE ON PROCEDURE kaiseki.expire_trail TO '$app_account'@localhost;"
  owner_says db "$grants"
}

# Of the demo: its hosts stand in the home, and may be tried out without waiting for what was set aside.
give_demo() {
  local name
  for name in boathouse-files berth-kiosk galley-tablet ticket-hut; do
    as_account "$app_account" mkdir -p -m 0755 "$KAISEKI_HOME/hosts/$name/files"
  done
  give_folder here "$KAISEKI_HOME/hosts"
  as_account "$app_account" mkdir -p -m 0700 "$KAISEKI_HOME/mail/files"
  give_folder here "$KAISEKI_HOME/mail/files"
  for name in boathouse-files berth-kiosk; do give_folder "$name" "$KAISEKI_HOME/hosts/$name/files"; done
  echo 0 >"$walls_folder/keep-hours"
}

# While the demo is made, its account may come in as one of the server's own; then its files are other people's.
open_fares() {
  owner_says fares "CREATE OR REPLACE USER '$app_account'@localhost IDENTIFIED VIA unix_socket;
    GRANT ALL ON *.* TO '$app_account'@localhost WITH GRANT OPTION"
}

close_demo() {
  owner_says fares "DROP USER '$app_account'@localhost"
  chown -hR root:root "$KAISEKI_HOME"/hosts/*/files
}

close_configuration() {
  local file
  for file in port hosts-known proxies nginx.conf fpm.conf supervisord.conf .env {fares,names,mail,dav,metal}.port metal; do
    [ -e "$KAISEKI_HOME/$file" ] || continue
    chown "root:$app_account" "$KAISEKI_HOME/$file"
    chmod 0640 "$KAISEKI_HOME/$file"
  done
  chmod 0755 "$KAISEKI_HOME/fpm-start"
}

# The commands that are allowed here: in each line an account, a tab, and a JSON list of arguments. The processes of the accounts run them.
allowed() { cat "$KAISEKI_HOME/allowed" 2>/dev/null || true; }

plain_json() { php -r 'echo json_encode(json_decode($argv[1], true), JSON_UNESCAPED_SLASHES | JSON_UNESCAPED_UNICODE);' -- "$1"; }

write_allowed() {
  ( umask 027; sort -u >"$KAISEKI_HOME/allowed.new" )
  chown "root:$app_account" "$KAISEKI_HOME/allowed.new"
  mv "$KAISEKI_HOME/allowed.new" "$KAISEKI_HOME/allowed"
}

allow_command() { # JSON ACCOUNT
  local json
  json=$(plain_json "$1")
  [[ $json = '["'* && $json != *[$'\n\t%']* ]] || fail "a command is a JSON list of its arguments, without percent signs: $1"
  [[ $2 =~ ^[a-z_][a-z0-9_-]{0,31}$ ]] && [ "$(id -u -- "$2" 2>/dev/null || echo 0)" != 0 ] ||
    fail "a command is run as an account of this machine that is not root: $2"
  { forbidden "$json"; printf '%s\t%s\n' "$2" "$json"; } | write_allowed
  renew_hosts
  ! supervisord_pid >/dev/null || wait_for_socket "$KAISEKI_HOME/commands/$2/socket"
}

forbid_command() { # JSON
  forbidden "$(plain_json "$1")" | write_allowed
  renew_hosts
}

forbidden() { allowed | php -r 'foreach (file("php://stdin") as $l) { explode("\t", rtrim($l), 2)[1] === $argv[1] || print $l; }' -- "$1"; }

# One program for each account that commands are run as: what it may run is said when it is begun.
command_programs() {
  local account script=$walls_folder/commands-
  for account in $(allowed | cut -f 1 | sort -u); do
    install -d -m 0711 "$KAISEKI_HOME/commands"
    install -d -m 0750 -o "$account" -g "$app_account" "$KAISEKI_HOME/commands/$account"
    {
      printf '#!/bin/sh\nexec %q %q -- /usr/bin/php8.2 %q %q %q' "$root/bin/walls/enter" "$account" "$root/bin/command-process" \
        "$KAISEKI_HOME/commands/$account/socket" "$(id -u "$app_account")"
      allowed | php -r 'foreach (file("php://stdin") as $line) {
        [$account, $json] = explode("\t", rtrim($line), 2);
        $account !== $argv[1] || print " ".escapeshellarg($json);
      }' -- "$account"
      echo
    } >"$script$account"
    chmod 700 "$script$account"
    # Its contents are part of the name, so that another list begins another process.
    root_program "commands-$account-$(md5sum <"$script$account" | head -c 8)" 12 "$script$account"
  done
}
