# The configuration files of what bin/start runs: nginx, php-fpm, and the supervisors. Sourced by bin/start.

# Who answers, and what it is told of the question. A port belongs to the name under which pages are known, or redirects lead elsewhere.
to_application() { # HOST [MORE]
  cat <<T
      fastcgi_pass unix:$KAISEKI_HOME/run/fpm.sock;
      fastcgi_param SCRIPT_FILENAME $root/public/index.php;
      fastcgi_param SCRIPT_NAME /index.php;
      fastcgi_param DOCUMENT_ROOT $root/public;
      fastcgi_param REQUEST_METHOD \$request_method;
      fastcgi_param REQUEST_URI \$request_uri;
      fastcgi_param REQUEST_SCHEME \$scheme;
      fastcgi_param QUERY_STRING \$query_string;
      fastcgi_param CONTENT_TYPE \$content_type;
      fastcgi_param CONTENT_LENGTH \$content_length;
      fastcgi_param SERVER_PROTOCOL \$server_protocol;
      fastcgi_param SERVER_NAME \$server_name;
      fastcgi_param SERVER_PORT \$server_port;
      fastcgi_param REMOTE_ADDR \$remote_addr;
      fastcgi_param HTTP_HOST $1;
      fastcgi_param HTTP_PROXY "";
      fastcgi_read_timeout 120s;
      ${2:-}
T
}

write_nginx() {
  cat >"$KAISEKI_HOME/nginx.conf" <<T
daemon off;
$([ "$(id -u)" != 0 ] || has_walls || echo "user root;")
worker_processes 1;
pid $KAISEKI_HOME/run/nginx.pid;
error_log $KAISEKI_HOME/log/nginx-error.log;
events { worker_connections 512; }
http {
  include /etc/nginx/mime.types;
  access_log off;
  server_tokens off;
  sendfile on;
  gzip on;
  gzip_types text/css application/javascript image/svg+xml application/json;
  client_max_body_size 16m;
  client_body_temp_path $KAISEKI_HOME/tmp/nginx-body;
  proxy_temp_path $KAISEKI_HOME/tmp/nginx-proxy;
  fastcgi_temp_path $KAISEKI_HOME/tmp/nginx-fastcgi;
  uwsgi_temp_path $KAISEKI_HOME/tmp/nginx-uwsgi;
  scgi_temp_path $KAISEKI_HOME/tmp/nginx-scgi;
  server {
    listen $address:$port;
    root $root/public;
    location /assets/ {
      add_header Cache-Control "public, max-age=31536000, immutable";
      add_header X-Content-Type-Options nosniff;
      try_files \$uri =404;
    }
    location = /favicon.ico { return 204; access_log off; }
    location / {
$(to_application '$host:$server_port')
      fastcgi_buffers 32 16k;
      fastcgi_buffer_size 32k;
    }
  }
  # The line of recovery media and agents: TLS, and nothing but what they ask.
  server {
    listen $metal ssl;
    ssl_certificate $KAISEKI_HOME/keys/metal.crt;
    ssl_certificate_key $KAISEKI_HOME/keys/metal.key;
    ssl_protocols TLSv1.3;
    location / { return 404; }
    location ~ ^/(metal|agent)/ {
$(to_application 127.0.0.1 'fastcgi_param KAISEKI_METAL on;')
    }
  }
}
T
}

write_fpm() {
  # Workers whose master was killed would keep the socket, and no new master could have it: they go first.
  pool=kaiseki-$(printf %s "$KAISEKI_HOME" | md5sum | head -c 12)
  cat >"$KAISEKI_HOME/fpm-start" <<T
#!/bin/sh
pkill -KILL -f '^php-fpm: pool $pool'
rm -f $KAISEKI_HOME/run/fpm.sock
exec /usr/sbin/php-fpm8.2 $([ "$(id -u)" != 0 ] || has_walls || echo -R) -F -y $KAISEKI_HOME/fpm.conf
T
  chmod 755 "$KAISEKI_HOME/fpm-start"
  cat >"$KAISEKI_HOME/fpm.conf" <<T
[global]
error_log = $KAISEKI_HOME/log/fpm.log
pid = $KAISEKI_HOME/run/fpm.pid
daemonize = no
[$pool]
listen = $KAISEKI_HOME/run/fpm.sock
pm = dynamic
pm.max_children = 8
pm.start_servers = 2
pm.min_spare_servers = 1
pm.max_spare_servers = 4
catch_workers_output = yes
env[KAISEKI_HOME] = $KAISEKI_HOME
env[PATH] = /usr/local/bin:/usr/bin:/bin
env[KAISEKI_IDLE_MINUTES] = ${KAISEKI_IDLE_MINUTES:-60}
env[KAISEKI_SESSION_HOURS] = ${KAISEKI_SESSION_HOURS:-12}
php_admin_value[memory_limit] = 256M
php_admin_value[sys_temp_dir] = $KAISEKI_HOME/tmp
php_admin_value[upload_tmp_dir] = $KAISEKI_HOME/tmp
php_admin_flag[display_errors] = off
php_admin_value[opcache.validate_timestamps] = 1
T
}

program() { # NAME PRIORITY AUTOSTART COMMAND
  supervised "$1" "$2" "$3" 30 "$KAISEKI_HOME/log" "$root" "$4"
}

# A server that starts removes what others have in its folder for temporary tables: each has one of its own.
fares_command() {
  printf '%s ' /usr/sbin/mariadbd --no-defaults "--user=$(database_account)" "--datadir=$KAISEKI_HOME/fares-db" \
    "--tmpdir=$KAISEKI_HOME/sql/fares-tmp" \
    "--socket=$KAISEKI_HOME/sql/fares.sock" "--pid-file=$KAISEKI_HOME/sql/fares.pid" \
    "--port=$(cat "$KAISEKI_HOME/fares.port")" --bind-address=127.0.0.1 --skip-name-resolve --server-id=21 \
    "--log-bin=$KAISEKI_HOME/fares-db/binlog" --binlog-format=ROW --binlog-row-image=FULL --sync-binlog=0 \
    --innodb-flush-log-at-trx-commit=2 --innodb-log-file-size=64M --innodb-buffer-pool-size=96M \
    --max-allowed-packet=64M --character-set-server=utf8mb4 --performance-schema=0
}

hypervisor_command() { # FOLDER
  echo "/usr/bin/php8.2 $root/bin/hypervisor-process $1 $(if has_walls; then id -u "$app_account"; else id -u; fi)"
}

# hypervisor_programs PROGRAM [BEFORE]: one of each stand-in hypervisor of the demo, and of its name server.
hypervisor_programs() {
  local folder
  for folder in "$KAISEKI_HOME"/vm/*; do
    [ ! -e "$folder/host.json" ] || "$1" "vm-$(basename "$folder")" 15 ${3:-} "${2:-}$(hypervisor_command "$folder")"
  done
  folder=$KAISEKI_HOME/vm/names
  [ ! -d "$folder" ] || "$1" vm-names 15 ${3:-} \
    "${2:-}/usr/bin/php8.2 $root/bin/name-service $folder $(cat "$KAISEKI_HOME/names.port") $KAISEKI_HOME/named"
}

supervisor() { # FOLDER-OF-SOCKET-AND-PID FOLDER-OF-LOGS
  cat <<T
[unix_http_server]
file=$1/supervisor.sock
chmod=0700
[supervisord]
logfile=$2/supervisord.log
pidfile=$1/supervisord.pid
childlogdir=$2
umask=077
environment=KAISEKI_HOME="$KAISEKI_HOME",TMPDIR="$KAISEKI_HOME/tmp"
[rpcinterface:supervisor]
supervisor.rpcinterface_factory = supervisor.rpcinterface:make_main_rpcinterface
[supervisorctl]
serverurl=unix://$1/supervisor.sock
T
}

# What takes long by nature must not keep other things waiting: each line of jobs has workers of its own.
application_programs() { # AUTOSTART
  local lines=() line number queues work
  program fpm 20 "$1" "$KAISEKI_HOME/fpm-start"
  program nginx 30 "$1" "/usr/sbin/nginx -p $KAISEKI_HOME/ -e $KAISEKI_HOME/log/nginx-error.log -c $KAISEKI_HOME/nginx.conf"
  while read -r line number; do
    lines+=("$line")
    queues=$line; [ "$line" != sets ] || queues=sets,default # where the version before put them
    work="artisan queue:work --queue=$queues --sleep=1 --tries=1 --timeout=0 --max-time=3600"
    program "$line" 40 "$1" "/usr/bin/php8.2 -d memory_limit=1G $work"
    printf 'numprocs=%s\nprocess_name=%%(program_name)s_%%(process_num)d\n' "$number"
  done <<<"$workers"
  printf '[group:workers]\nprograms=%s\n' "$(IFS=,; echo "${lines[*]}")"
  program scheduler 50 "$1" "/usr/bin/php8.2 artisan schedule:work"
  [ ! -e "$KAISEKI_HOME/mail.port" ] ||
    program crew-mail 35 "$1" "/usr/bin/php8.2 $root/bin/mail-server $KAISEKI_HOME/mail $(cat "$KAISEKI_HOME/mail.port")"
  [ ! -e "$KAISEKI_HOME/dav.port" ] ||
    program crew-calendar 36 "$1" "/usr/bin/php8.2 $root/bin/calendar-server $KAISEKI_HOME/mail $(cat "$KAISEKI_HOME/dav.port")"
  program helpers 45 "$1" "/usr/bin/php8.2 artisan kaiseki:helpers"
}

# One supervisor of one account runs all; behind walls root's runs the databases, the processes of hosts, and that of the application.
write_supervisors() {
  if ! has_walls; then
    {
      supervisor "$KAISEKI_HOME/run" "$KAISEKI_HOME/log"
      program database 10 true "$(database_command)"
      [ -z "${fares:-}" ] || program fares-db 15 true "$(fares_command)"
      hypervisor_programs program "" true
      application_programs false
    } >"$KAISEKI_HOME/supervisord.conf"
    return
  fi
  { supervisor "$KAISEKI_HOME/run" "$KAISEKI_HOME/log"; application_programs true; } >"$KAISEKI_HOME/supervisord.conf"
  {
    supervisor "$walls_folder" "$walls_folder/log"
    printf '[include]\nfiles=%s\n' "$walls_folder/hosts.conf"
    root_program database 10 "$root/bin/walls/enter $db_account -- $(database_command)"
    [ -z "${fares:-}" ] || root_program fares-db 15 "$root/bin/walls/enter $db_account -- $(fares_command)"
    hypervisor_programs root_program "$root/bin/walls/enter $vm_account -- "
    root_program application 20 "$root/bin/walls/application" false
  } >"$walls_folder/supervisord.conf"
  host_programs
}
