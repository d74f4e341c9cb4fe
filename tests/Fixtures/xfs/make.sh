#!/usr/bin/env bash
# make.sh: makes volume.raw.gz beside it, an XFS that Linux wrote, listing.tsv.gz, what Linux read of it, and in-use.raw.gz, a small one as
# it lay on its disk while it was in use. Needs root, a loop device and
# xfsprogs; run on Linux 6.1 with xfsprogs 6.1.
set -euo pipefail
cd "$(dirname "$0")"
. ../linux-volume.sh
work=$(mktemp -d)
truncate -s 64M "$work/volume.raw"
# Smaller than mkfs.xfs makes them for people.
TEST_DIR=1 TEST_DEV=1 QA_CHECK_FS=1 mkfs.xfs -q -L harbour -b size=1024 -m bigtime=1,rmapbt=1 "$work/volume.raw"
mkdir "$work/mounted"
mount -o loop "$work/volume.raw" "$work/mounted"
trap 'umount "$work/mounted" 2>/dev/null || true; rm -rf "$work"' EXIT
fill_volume "$work/mounted" 700 150
sync
list_volume "$work/mounted" | gzip -9n >listing.tsv.gz
umount "$work/mounted"
gzip -9nc "$work/volume.raw" >volume.raw.gz

truncate -s 64M "$work/in-use.raw"
TEST_DIR=1 TEST_DEV=1 QA_CHECK_FS=1 mkfs.xfs -q "$work/in-use.raw"
mount -o loop "$work/in-use.raw" "$work/mounted"
for number in 1 2 3 4 5 6 7 8; do echo "$number" >"$work/mounted/$number"; done
sync
gzip -9nc "$work/in-use.raw" >in-use.raw.gz
umount "$work/mounted"
