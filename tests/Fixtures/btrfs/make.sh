#!/usr/bin/env bash
# make.sh: makes volume.raw.gz beside it, a Btrfs that Linux wrote, and listing.tsv.gz, what Linux read of it. Needs root, a loop device and
# btrfs-progs; run on Linux 6.1 with btrfs-progs 6.2.
set -euo pipefail
cd "$(dirname "$0")"
. ../linux-volume.sh
work=$(mktemp -d)
truncate -s 32M "$work/volume.raw"
mkfs.btrfs -q --mixed -n 4096 -s 4096 -L harbour "$work/volume.raw"
mkdir "$work/mounted"
mount -o loop "$work/volume.raw" "$work/mounted"
trap 'umount "$work/mounted" 2>/dev/null || true; rm -rf "$work"' EXIT
fill_volume "$work/mounted" 300 60
# Compressed in three ways, in the tree and in extents; a part of one written over; and what cannot be compressed.
for how in zlib lzo zstd; do
  mkdir "$work/mounted/$how"
  btrfs property set "$work/mounted/$how" compression "$how"
  seq 1 40000 >"$work/mounted/$how/numbers"
  seq 1 200 >"$work/mounted/$how/few"
  dd if=/dev/zero of="$work/mounted/$how/numbers" bs=1000 seek=50 count=3 conv=notrunc status=none
  seq 5 4500 | openssl enc -aes-128-ctr -K 00 -iv 00 2>/dev/null >"$work/mounted/$how/noise"
done
# Subvolumes within each other, and a snapshot, in which the inner one is left out.
btrfs subvolume create "$work/mounted/sub" >/dev/null
echo first >"$work/mounted/sub/file"
btrfs subvolume create "$work/mounted/sub/inner" >/dev/null
echo inner >"$work/mounted/sub/inner/file"
btrfs subvolume snapshot "$work/mounted/sub" "$work/mounted/snapshot" >/dev/null
echo second >"$work/mounted/sub/file"
sync
list_volume "$work/mounted" | gzip -9n >listing.tsv.gz
umount "$work/mounted"
gzip -9nc "$work/volume.raw" >volume.raw.gz
