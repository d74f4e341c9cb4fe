# --- Where things are ----------------------------------------------------------------------------------------------------------------
# What stands above was written by the desk: name, desk, code, version, certificate_text, key_text.

set -u
umask 077
LC_ALL=C
LVM_SUPPRESS_FD_WARNINGS=1
export LC_ALL LVM_SUPPRESS_FD_WARNINGS
PATH=/usr/local/sbin:/usr/local/bin:/usr/sbin:/usr/bin:/sbin:/bin:$PATH
root=${KAISEKI_AGENT_ROOT:-/}                 # what it tells of: / but where the machine is seen from inside a container
etc=${KAISEKI_AGENT_ETC:-/etc/kaiseki-agent}  # its rules; and what it is known by, which is never in a set
state=${KAISEKI_AGENT_STATE:-/var/lib/kaiseki-agent}
pause=${KAISEKI_AGENT_PAUSE:-10}              # seconds between two questions whether there is work
work=$state/work
record=$state/machine                         # what a blank machine must know of this one: part of every set
still=$work/still                             # all of it again, out of snapshots, where and while there are some
under=agent
lines=$work
certificate=$etc/desk.crt
key=$etc/desk.pem
readonly piece=4194304 largest_image=2147483648

say() { echo "kaiseki-agent: $*" >&2; }
give_up() { say "$*"; exit 1; }
needs() {
  local missing='' tool
  for tool in openssl find tar gzip awk sort cut sed tr head tail stat timeout dd od cmp xargs; do
    command -v "$tool" >/dev/null 2>&1 || missing="$missing $tool"
  done
  [ -z "$missing" ] || give_up "This machine lacks$missing. Install them, and try again."
  tar --version 2>/dev/null | grep -q GNU || give_up "tar must be GNU tar here: it alone stores attributes and access lists."
  find "$etc" -maxdepth 0 -printf '' 2>/dev/null || give_up "find must be GNU find here."
}
folders() { mkdir -p "$etc" "$work" "$record" && chmod 700 "$etc" "$state" "$work"; }

@LINE@
# --- Becoming known ------------------------------------------------------------------------------------------------------------------

enrol() {
  printf '%s\n' "$certificate_text" >"$certificate"
  printf '%s\n' "$key_text" >"$key"
  token=
  printf '%s\n' "$code" "host $(uname -n | head -c 100)" "system $(uname -srm | head -c 100)" "version $version" >"$work/enrol"
  ask enrol "$work/enrol" || {
    refused && give_up "The desk refuses the code of this file: it is wrong, was used, or is over. Have a new one made there."
    give_up "The desk at $desk does not answer as itself: $(tail -n 1 "$lines/$as.line" 2>/dev/null)"
  }
  head -n 1 "$work/work.body" | tr -cd '0-9a-f' >"$etc/token"
  echo 0 >"$etc/last"
  echo "The desk knows this machine as $name. It must show the same two words: $(sed -n 2p "$work/work.body")"
}
install_it() {
  folders
  needs
  enrol
  [ -e "$etc/rules" ] || rules_text >"$etc/rules"
  [ "$root" = / ] || return 0
  cp -- "$0" /usr/local/sbin/kaiseki-agent && chmod 700 /usr/local/sbin/kaiseki-agent || give_up "It cannot be copied to /usr/local/sbin."
  if [ -d /run/systemd/system ]; then
    printf '%s\n' '[Unit]' 'Description=Kaiseki agent' 'After=network-online.target' 'Wants=network-online.target' '[Service]' \
      'ExecStart=/usr/local/sbin/kaiseki-agent run' 'Restart=always' 'RestartSec=30' 'Nice=10' 'IOSchedulingClass=idle' \
      '[Install]' 'WantedBy=multi-user.target' >/etc/systemd/system/kaiseki-agent.service
    systemctl daemon-reload && systemctl enable kaiseki-agent.service && systemctl restart kaiseki-agent.service ||
      give_up "systemd does not start it."
  else
    echo "It runs with: kaiseki-agent run. Have that started with the machine."
  fi
}
rules_text() {
  echo '# What of this machine is in its sets: "include /FOLDER" a line, or all of it where there is none; and "exclude /PATTERN why" for'
  echo '# what is not. A pattern is as find -path takes it. Whatever is left out is named in every set.'
  echo 'exclude /var/tmp/* passing'
  echo 'exclude /tmp/* passing'
  echo 'exclude /var/cache/apt/archives/* comes again'
}

# --- What is there -------------------------------------------------------------------------------------------------------------------

rules() { sed -n "s/^[[:space:]]*$1[[:space:]]\{1,\}\(\/[^[:space:]]*\).*/\1/p" "$etc/rules" 2>/dev/null; }
left_out() { # PATTERN WHY a line
  sed -n 's/^[[:space:]]*exclude[[:space:]]\{1,\}\(\/[^[:space:]]*\)[[:space:]]*\(.*\)/\1 \2/p' "$etc/rules" 2>/dev/null
}
is_whole() { [ -z "$(rules include)" ]; }
# The file systems of this machine's own disks, each once, as "MAJOR:MINOR TYPE MOUNT"; the octal escapes of mount points stay. Of Btrfs
# each subvolume that is mounted: it has a number of its own, which a folder that is mounted a second time shares.
mounts() {
  local device type at number known=' '
  [ "$root" = / ] || return 0
  awk -v not="$still" 'index($5, not) != 1 {
    for (i = 7; $i != "-"; i++);
    if ($(i + 1) == "btrfs" || ($4 == "/" && $(i + 1) ~ /^(ext[234]|xfs|vfat|f2fs)$/)) print $3, $(i + 1), $5
  }' /proc/self/mountinfo | while read -r device type at; do
    number=$device
    [ "$type" != btrfs ] || number=$(stat -c %d -- "$(plain "$at")" 2>/dev/null) || continue
    case $known in *" $number "*) continue ;; esac
    known="$known$number "
    echo "$device $type $at"
  done
}
# Subvolumes of Btrfs that lie within others and are mounted nowhere, snapshots among them: nothing goes into those.
unmounted() {
  local at found
  is_whole || return 0
  mounts | grep ' btrfs ' >"$work/mounts" || return 0
  while read -r _ _ at; do stat -c %d -- "$(plain "$at")"; done <"$work/mounts" >"$work/numbers"
  while read -r _ _ at; do
    find "$(plain "$at")" -xdev -type d -inum 256 2>/dev/null | while IFS= read -r found; do
      grep -qxF -- "$(stat -c %d -- "$found")" "$work/numbers" || printf '%s\n' "$found"
    done
  done <"$work/mounts" | head -n 50
}
plain() { printf '%b' "$(printf %s "$1" | sed 's/\\\([0-7][0-7][0-7]\)/\\0\1/g')"; }
seen() { [ -e "$work/snapshots" ] && echo "$still" || echo "$root"; }
# What is below a path, as far as its file system reaches. A snapshot has a number of its own: what is told is that of what it is of.
below() { # PATH FORMAT
  local path=$1 format=$2 own pattern
  [ ! -e "$work/snapshots" ] || format=$(printf %s "$format" | sed "s/%D/$(stat -c %d -- "/${path#./}")/")
  set -- -printf "$format"
  for own in "$etc/token" "$etc/last" "$work"; do
    [ "${own#"${root%/}/"}" = "$own" ] || set -- -path "./${own#"${root%/}/"}" -prune -o "$@"
  done
  while IFS= read -r pattern; do # a folder that is left out is there, and empty
    set -- -path ".$pattern" \( -type d -prune -printf "$format" -o -true \) -o "$@"
  done <"$work/excluded"
  find "$path" -xdev \( "$@" \)
}
one() { # PATH FORMAT
  [ ! -e "$work/snapshots" ] || set -- "$1" "$(printf %s "$2" | sed "s/%D/$(stat -c %d -- "/${1#./}")/")"
  find "$1" -maxdepth 0 -printf "$2"
}
# Goes through all that is in a set, and prints of each what is asked for, as find -printf has it.
through() { # FORMAT
  local path at
  rules exclude >"$work/excluded"
  if is_whole; then
    below . "$1"
    mounts >"$work/mounts"
    while read -r _ _ at; do
      [ "$at" = / ] || below ".$(plain "$at")" "$1"
    done <"$work/mounts"
    [ "$root" != / ] || { : >"$work/excluded" && below ".$record" "$1"; } # whatever the rules leave out
  else
    one . "$1"
    rules include >"$work/included"
    while IFS= read -r path; do
      at=${path%/*}
      while [ -n "$at" ]; do # the folders that it lies in
        one ".$at" "$1"
        at=${at%/*}
      done
      below ".${path%/}" "$1"
    done <"$work/included"
  fi
}
list() {
  (cd "$(seen)" && through '%y %m %U %G %s %T@ %C@ %i %D %n %b %u %g\0%p\0%l\0') >"$work/list" 2>"$work/list.errors"
}

# --- What a blank machine must know of this one ----------------------------------------------------------------------------------------

keep() { # NAME: what it is given, a new file only where it is another
  cat >"$work/kept"
  if cmp -s "$work/kept" "$record/$1"; then rm -f "$work/kept"; else mv "$work/kept" "$record/$1"; fi
}
word() { tr -d '\000-\037\177' | tr -s ' ' '_' | sed 's/_*$//' | head -c 120; }
disks() {
  local name
  for name in $(ls /sys/block); do
    case $name in loop* | ram* | sr* | fd* | dm-* | zram* | md* | nbd*) continue ;; esac
    [ "$(cat "/sys/block/$name/size")" -gt 0 ] && [ "$(cat "/sys/block/$name/removable")" = 0 ] && echo "$name"
  done
}
serial() { # DISK
  { cat "/sys/block/$1/serial" "/sys/block/$1/device/serial" || tail -c +5 "/sys/block/$1/device/vpd_pg80"; } 2>/dev/null | head -n 1 | word
}
is_ext() { [ "$(dd if="/dev/$1" bs=1 skip=1080 count=2 2>/dev/null | od -An -tx1 | tr -d ' ')" = 53ef ]; }
is_xfs() { [ "$(dd if="/dev/$1" bs=4 count=1 2>/dev/null)" = XFSB ]; }
is_part() { [ "$(dd if="/dev/$1" bs=8 skip=64 count=4 2>/dev/null | tr -d '\000-\037\177-\377' | grep -c '^LABELONE.*LVM2 001$')" = 1 ]; }
is_in_btrfs() { [ -n "$(ls -d /sys/fs/btrfs/*/devices/"$1" 2>/dev/null)" ]; } # one that is mounted
is_swap() { [ "$(dd if="/dev/$1" bs=1 skip=4086 count=10 2>/dev/null)" = SWAPSPACE2 ]; }
volume() { # NODE KEY BYTES: what lies on it, and how it comes into the set
  local device at
  if is_part "$1"; then # all that LVM says of a group stands there
    dd if="/dev/$1" bs=1048576 count=1 2>/dev/null | keep "$2.head"
    echo "volume $2 group"
    return
  fi
  dd if="/dev/$1" bs=65536 count=1 2>/dev/null | keep "$2.head"
  device=$(cat "/sys/class/block/$1/dev")
  at=$(mounts | awk -v device="$device" '$1 == device { print $3; exit }')
  if [ -n "$at" ] && { is_ext "$1" || is_xfs "$1"; }; then
    # What it holds now stands in no superblock while it is mounted.
    echo "volume $2 files $(stat -f -c '%S %b %f %c %d' "$(plain "$at")" | tr ' ' ,) $at"
  elif is_swap "$1"; then
    echo "volume $2 swap"
  elif [ -n "$(ls "/sys/class/block/$1/holders" 2>/dev/null)" ]; then
    echo "volume $2 left it_is_part_of_$(ls "/sys/class/block/$1/holders" | head -n 1 | word)"
  elif is_in_btrfs "$1"; then
    echo "volume $2 left it_is_Btrfs,_of_which_only_files_come"
  elif [ -n "$at" ] && [ "$(mounts | awk -v device="$device" '$1 == device { print $2; exit }')" != vfat ]; then
    echo "volume $2 left its_file_system_cannot_be_made_anew"
  elif is_ext "$1"; then
    echo "volume $2 left it_is_not_mounted"
  elif [ "$3" -gt $largest_image ]; then
    echo "volume $2 left it_is_none_of_ext,_and_too_large_for_an_image"
  else
    dd if="/dev/$1" bs=1048576 2>/dev/null | gzip -n -1 | keep "$2.img.gz"
    echo "volume $2 image $at"
  fi
}
# Volumes of LVM that people see, as "NODE GROUP VOLUME" a line. What LVM has for itself has more than two numbers in its own.
volumes() {
  local node
  for node in /sys/block/dm-*; do
    grep -qxE 'LVM-[A-Za-z0-9]{64}' "$node/dm/uuid" 2>/dev/null && ! grep -qE -- '-kaiseki--agent--[0-9]+$' "$node/dm/name" || continue
    echo "${node##*/} $(sed 's/--/\n/g; s/-/ /; s/\n/-/g' "$node/dm/name")"
  done
}
number() { od -An -tu"$1" -j "$2" -N "$1" "$3" | tr -d ' '; } # BYTES AT FILE
is_extended() { case $1 in 5 | 15 | 133) return 0 ;; *) return 1 ;; esac }
within() { # DISK: the tables of logical partitions, each of which names the next
  local entry first next count at
  for entry in 446 462 478 494; do
    is_extended "$(number 1 $((entry + 4)) "$record/$1.begin")" || continue
    first=$(number 4 $((entry + 8)) "$record/$1.begin")
    next=0
    count=0
    while [ $count -lt 60 ]; do
      at=$((first + next))
      dd if="/dev/$1" bs=512 skip="$at" count=1 2>/dev/null | keep "$1.table.$at"
      echo "table $1 $at"
      is_extended "$(number 1 466 "$record/$1.table.$at")" || break
      next=$(number 4 470 "$record/$1.table.$at")
      count=$((count + 1))
    done
  done
}
machine() {
  local name part of
  echo 'kaiseki-machine 1'
  echo "firmware $([ -d /sys/firmware/efi ] && echo uefi || echo bios)"
  echo "kernel $(uname -r | word)"
  echo "product $(cat /sys/class/dmi/id/product_name 2>/dev/null | word)"
  for name in /sys/class/net/*; do
    [ ! -e "$name/device" ] || echo "card $(basename "$name" | word) $(cat "$name/address" | word)"
  done
  left_out | while read -r of part; do echo "left-out $(printf %s "$of" | word) $(printf %s "$part" | word)"; done
  for name in /sys/block/dm-* /sys/block/md*; do
    of=$(cat "$name/dm/uuid" "$name/md/level" 2>/dev/null | head -n 1 | word)
    case $of in '' | LVM-*) ;; *) echo "unsupported $(basename "$name") $of" ;; esac
  done
  for name in $(disks); do
    echo "disk $name $(($(cat "/sys/block/$name/size") * 512)) $(cat "/sys/block/$name/queue/logical_block_size") $(serial "$name")"
    dd if="/dev/$name" bs=1048576 count=1 2>/dev/null | keep "$name.begin"
    tail -c 65536 "/dev/$name" 2>/dev/null | keep "$name.end"
    within "$name"
    part=
    for part in "/sys/block/$name/$name"*; do
      [ -e "$part/partition" ] && [ "$(cat "$part/size")" -gt 2 ] || continue
      volume "$(basename "$part")" "$name.$(cat "$part/partition")" "$(($(cat "$part/size") * 512))"
    done
    [ -e "$part/partition" ] || volume "$name" "$name" "$(($(cat "/sys/block/$name/size") * 512))"
  done
  volumes >"$work/volumes"
  while read -r part name of; do
    volume "$part" "$name-$of" "$(($(cat "/sys/block/$part/size") * 512))"
  done <"$work/volumes"
}
attributes() {
  command -v getfattr >/dev/null 2>&1 || return 0
  (cd "$(seen)" && through '%p\0' | xargs -0 -r getfattr --no-dereference --dump --match=- --encoding=hex 2>/dev/null)
}
tell_record() {
  is_whole && [ "$root" = / ] || return 0
  machine >"$work/machine" && keep machine <"$work/machine"
  attributes | keep attributes
}
remarks() { # what is to be known of the set that is made now, a line each
  left_out | sed 's/^\([^ ]*\) *\(.*\)$/Left out by the rules there: \1 (\2)/; s/ ()$//'
  is_whole && grep -E '^(unsupported|volume [^ ]* left)' "$record/machine" 2>/dev/null |
    sed 's/^unsupported \([^ ]*\) \(.*\)/Not brought onto a blank machine: \1, which is \2./
      s/^volume \([^ ]*\) left \(.*\)/Not in it: \1, for \2./
      s/_/ /g'
  unmounted | sed 's/.*/Not in it: the subvolume &, which is mounted nowhere./'
  command -v getfattr >/dev/null 2>&1 || echo 'Attributes of folders are not recorded: getfattr is not there.'
  head -n 20 "$work/list.errors" | sed 's/^/find: /'
  if [ -e "$work/snapshots" ]; then
    cut -d ' ' -f 3 "$work/snapshots" | sed 's/.*/Files of & were read from a snapshot./'
    unsnapped | sed 's/.*/Files of & were read while the machine ran, without a snapshot./'
  else
    echo 'Files were read while the machine ran, without a snapshot.'
  fi
  cat "$work/why" 2>/dev/null
}

# --- Snapshots, where LVM gives some -------------------------------------------------------------------------------------------------

node_of() { echo "/dev/mapper/$(printf %s "$1" | sed 's/-/--/g')-$(printf %s "$2" | sed 's/-/--/g')"; } # GROUP VOLUME
has_lvm() { [ "$root" = / ] && command -v lvm >/dev/null 2>&1; }
# The file systems of this machine as "GROUP VOLUME TYPE AT", those that lie on no volume as "- - TYPE AT"; what others lie in first.
mounted() {
  local device type at
  volumes >"$work/volumes"
  mounts | sort -k 3 | while read -r device type at; do
    device=$(basename "$(readlink "/sys/dev/block/$device")")
    echo "$(grep "^$device " "$work/volumes" | cut -d ' ' -f 2,3 | grep . || echo - -) $type $at"
  done
}
unsnapped() { # where file systems are that no snapshot has
  while read -r _ _ _ at; do
    cut -d ' ' -f 3 "$work/snapshots" | grep -qxF -- "$at" || echo "$at"
  done <"$work/mounted"
}
share() { # GROUP: extents for each of its volumes, of what is free there
  local free
  free=$(lvm vgs --noheadings --options vg_free_count "$1" 2>/dev/null | tr -cd 0-9)
  echo $((${free:-0} / $(cut -d ' ' -f 1 "$work/mounted" | grep -cxF -- "$1")))
}
snapshots() {
  local group volume type at number=0
  rm -f "$work/why"
  has_lvm || return 0
  mounted >"$work/mounted"
  cut -d ' ' -f 1 "$work/mounted" | grep -vx -- - | sort -u | while read -r group; do
    echo "$group $(share "$group")"
  done >"$work/shares"
  : >"$work/taken"
  while read -r group volume type at; do
    [ "$group" != - ] || continue
    # The kernel takes two of one Btrfs for one: a copy of it must not be mounted beside it.
    [ "$type" != btrfs ] || { echo "No snapshot of $group/$volume: a copy of Btrfs cannot be mounted beside it." >>"$work/why"; continue; }
    number=$((number + 1))
    if lvm lvcreate --yes --snapshot --name "kaiseki-agent-$number" </dev/null >"$work/lvm" 2>&1 \
      --extents "$(awk -v g="$group" '$1 == g { print $2 }' "$work/shares")" "$group/$volume"; then
      echo "$group kaiseki-agent-$number $at $type" >>"$work/taken"
    else
      echo "No snapshot of $group/$volume: $(tail -n 1 "$work/lvm" | tr -d '\000-\037\177' | head -c 200)" >>"$work/why"
    fi
  done <"$work/mounted"
  [ ! -s "$work/taken" ] || assemble || { drop; echo 'Snapshots were taken, and could not be mounted.' >>"$work/why"; }
}
assemble() { # one tree of all file systems, those of which there is a snapshot as they were in that moment
  local at type taken
  mv "$work/taken" "$work/snapshots"
  mkdir -p "$still"
  while read -r _ _ type at; do
    taken=$(at=$at awk '$3 == ENVIRON["at"] { print $1, $2 }' "$work/snapshots")
    if [ -n "$taken" ]; then
      mount -t "$type" -o "ro$([ "$type" != xfs ] || echo ,nouuid)" "$(node_of ${taken% *} ${taken#* })" "$still$(plain "$at")"
    else
      mount -o bind "$(plain "$at")" "$still$(plain "$at")"
    fi || return 1
  done <"$work/mounted"
}
drop() { # whoever took them: one that was killed leaves some
  local at
  has_lvm || return 0
  cut -d ' ' -f 5 /proc/self/mountinfo | grep -F -- "$still" | sort -r | while read -r at; do umount "$(plain "$at")"; done
  rm -f "$work/snapshots"
  lvm lvs --noheadings --separator / --options vg_name,lv_name --select 'lv_name=~^kaiseki-agent-[0-9]+$' 2>/dev/null | tr -d ' ' |
    while read -r at; do lvm lvremove --yes "$at" </dev/null >/dev/null 2>&1; done
}
is_all_snapped() { # but for what a machine starts from, which is written by nobody
  [ -e "$work/snapshots" ] && [ "$(grep -vc ' vfat ' "$work/mounted")" = "$(grep -c . "$work/snapshots")" ]
}
is_intact() { # one that could not hold what changed meanwhile is worth nothing: what was read of it is not sent
  [ -e "$work/snapshots" ] || return 0
  [ -n "$(lvm lvs --noheadings --options lv_name --select 'lv_snapshot_invalid=1 && lv_name=~^kaiseki-agent-' 2>/dev/null)" ] || return 0
  echo 'unusable A snapshot was full before all was read: its volume group has too little free for what changes meanwhile.' >"$work/remarks"
  finish "$work/remarks"
  let_go now
  return 1
}

# --- Work ----------------------------------------------------------------------------------------------------------------------------

send() { # what it is given, in pieces; ends with 1 if the desk does not want it any more
  local number=0
  while head -c $piece >"$work/piece" && [ -s "$work/piece" ]; do
    is_intact || return 1
    until limit=600 ask "piece/$sequence/$number" "$work/piece"; do
      refused && return 1
      sleep 1 # it is not ready for more, or the line is cut
    done
    number=$((number + 1))
  done
  rm -f "$work/piece"
}
finish() { # what is to be said, from a file
  until ask "done/$sequence" "$1"; do
    refused && return 1
    sleep 1
  done
}
hook() { # before or after: a program that whoever runs this machine put there; how it ended, in a line
  [ -x "$etc/$1" ] || return 0
  timeout 600 "$etc/$1" >"$work/hook" 2>&1 </dev/null
  printf 'hook %s %s %s\n' "$1" $? "$(head -c 1000 "$work/hook" | tr '\000-\037\177' ' ')"
}
goes_on() { # what was brought to rest, once
  [ ! -e "$work/at-rest" ] || [ -e "$work/goes-on" ] || { : >"$work/goes-on"; hook after; }
}
do_list() {
  drop
  rm -f "$work/goes-on"
  tell_record 2>"$work/record.errors"
  : >"$work/at-rest"
  hook before >"$work/hooks"
  snapshots
  ! is_all_snapped || goes_on >>"$work/hooks"
  list
  gzip -1 <"$work/list" | send || return 1
  {
    cat "$work/hooks"
    [ ! -e "$work/snapshots" ] && { [ ! -x "$etc/after" ] || [ -e "$work/goes-on" ]; } || echo at-rest
    remarks | head -c 8000
  } >"$work/remarks"
  finish "$work/remarks"
}
# Its own list by numbers, in the order that the desk wants: no name comes from there.
do_contents() { # DIGEST of the numbers
  until ask "wanted/$sequence"; do
    refused && return 1
    sleep 1
  done
  mv "$work/work.body" "$work/wanted"
  [ "$(digest <"$work/wanted")" = "$1" ] && [ -s "$work/wanted" ] || { say "What is wanted is not what the desk signed."; return 1; }
  {
    tr '\n\0' '\001\n' <"$work/list" |
      awk 'NR == FNR { want[$1] = NR; next }
        FNR % 3 == 2 && ((FNR + 1) / 3 in want) { print want[(FNR + 1) / 3] "\t" $0 }' "$work/wanted" - |
      sort -n -T "$work" | cut -f 2- | tr '\n\001' '\0\n' |
      tar --directory="$(seen)" --create --file=- --format=pax --sparse --no-recursion --null --verbatim-files-from --files-from=- \
        --hard-dereference --acls --xattrs --xattrs-include='*' 2>"$work/tar.errors"
    echo $? >"$work/tar.ended"
  } | gzip -1 | send || return 1
  {
    [ "$(cat "$work/tar.ended")" -lt 2 ] || echo "tar ended with $(cat "$work/tar.ended")"
    grep -i -m 1 'read error' "$work/tar.errors" | sed 's/^/unusable /' # of which tar writes zeros
    head -n 20 "$work/tar.errors" | sed 's/^tar: //'
  } | head -c 4000 >"$work/remarks"
  finish "$work/remarks"
}
do_end() { # all was read: what was brought to rest may go on
  drop
  goes_on >"$work/remarks"
  rm -f "$work/at-rest"
  finish "$work/remarks"
}
let_go() { # nobody says so any more; or now, whatever they say
  [ -n "${1:-}" ] || [ -n "$(find "$work/at-rest" -mmin +15 2>/dev/null)" ] || return 0
  drop
  goes_on >&2
  rm -f "$work/at-rest"
}
turn() { # asks once whether there is work, and does it; ends with 1 if there is none
  local magic hash word argument last
  ask orders || { [ "$status" != 410 ] || give_up "The desk does not know this machine any more. Have a new file made there."; return 1; }
  [ "$(stat -c %s "$work/work.body")" -gt 64 ] || return 1
  head -c 64 "$work/work.body" >"$work/sign"
  tail -c +65 "$work/work.body" >"$work/order"
  signed "$work/order" "$work/sign" || { say "An order was not signed by this machine's desk: it is left."; return 1; }
  read -r magic hash sequence word argument <"$work/order"
  last=$(cat "$etc/last")
  case $sequence in '' | *[!0-9]*) return 1 ;; esac
  # Good for this machine only, and once.
  [ "$magic" = kaiseki-agent-1 ] && [ "$hash" = "$(printf %s "$token" | digest)" ] && [ "$sequence" -gt "$last" ] || return 1
  echo "$sequence" >"$etc/last"
  (
    as=beat
    while sleep 20; do ask "alive/$sequence" || true; done
  ) >/dev/null 2>&1 &
  beat=$!
  case $word in
    list) do_list ;;
    contents) do_contents "$argument" ;;
    end) do_end ;;
    *)
      say "An order that this agent does not know: is it older than the desk?"
      printf 'The agent there does not know the order "%s": give the machine a new one.' "$word" >"$work/remarks"
      finish "$work/remarks"
      ;;
  esac
  kill "$beat" 2>/dev/null
  wait "$beat" 2>/dev/null
  return 0
}
known() {
  folders
  [ -s "$etc/token" ] || give_up "The desk does not know this machine yet: run \"install\" first."
  token=$(cat "$etc/token")
}
case ${1:-} in
  install) install_it ;;
  once) known; turn || exit 0 ;;
  run)
    known
    needs
    drop # what it had taken before it was ended
    while :; do turn || { let_go; sleep "$pause"; }; done
    ;;
  show)
    folders
    (cd "$root" && through '%p\n')
    ;;
  *)
    echo "usage: sh $0 install | run | once | show" >&2
    exit 2
    ;;
esac
