#!/bin/bash
# make.sh FOLDER: how system.raw.gz and data.raw.gz here were made, by lvm2 of Debian 12, as root and with loop devices: a volume group
# "harbour" over the second partition of one disk and all of another, with the volumes root (in two pieces, one on each), plans and
# strips (striped over both). The kernel's device mapper is not needed: file systems are made beside, and laid where lvm2 says.
set -euo pipefail
cd "$1"
truncate -s 24M system.raw
truncate -s 16M data.raw
printf 'label: gpt\nstart=2048, size=8192, name=boot\nstart=10240, name=pv\n' | sfdisk -q system.raw
one=$(losetup -f --show -o $((10240 * 512)) system.raw)
two=$(losetup -f --show data.raw)
trap 'losetup -d "$one" "$two"' EXIT
pvcreate -ff -y --dataalignment 64k "$one" "$two"
vgcreate -s 512k harbour "$one" "$two"
make() { lvcreate --driverloaded n -y -an -Wn -Zn "$@"; }
make -n root -L 8M harbour "$one"
make -n plans -L 6M harbour "$two"
lvextend --driverloaded n -y -L +4M harbour/root "$two"
make --type striped -i 2 -I 64k -n strips -L 4M harbour
lvs --driverloaded n --segments -o+seg_pe_ranges harbour
pvs -o+pe_start
for volume in root:12M plans:6M strips:4M; do
  name=${volume%%:*}
  mkdir -p "tree-$name/srv"
  for i in $(seq 1 60); do printf "$name,$i\n%.0s" $(seq $((10 * i))) >"tree-$name/srv/$i.csv"; done
  [ "$name" != root ] || head -c 9000000 <(yes berth) >tree-root/large # it reaches into both of its pieces
  truncate -s "${volume##*:}" "$name.raw"
  mke2fs -q -t ext4 -m 0 -L "$name" -d "tree-$name" -E root_owner=0:0 "$name.raw"
done
extent=$((512 * 1024)) start=$((1024 * 1024)) # as pvs tells
lay() { # FROM SKIP DEVICE EXTENT COUNT, the last four in extents
  dd if="$1" of="$3" bs=$extent iflag=skip_bytes oflag=seek_bytes skip=$(($2 * extent)) seek=$((start + $4 * extent)) count="$5" \
    conv=notrunc status=none
}
lay root.raw 0 "$one" 0 16
lay root.raw 16 "$two" 12 8
lay plans.raw 0 "$two" 0 12
for stripe in $(seq 0 63); do
  device=$one at=16
  [ $((stripe % 2)) = 0 ] || { device=$two at=20; }
  dd if=strips.raw of="$device" bs=64k skip="$stripe" seek=$(((start + at * extent) / 65536 + stripe / 2)) count=1 conv=notrunc status=none
done
sync
gzip -9 -n system.raw data.raw
