#!/usr/bin/env bash
# make.sh: makes volume.raw.gz beside it, a Btrfs that Linux wrote, and listing.tsv.gz, what Linux read of it: path, kind, bytes, seconds
# since 1970, mode, owner, group, target, SHA-256. Needs root, a loop device and btrfs-progs; run on Linux 6.1 with btrfs-progs 6.2.
set -euo pipefail
cd "$(dirname "$0")"
work=$(mktemp -d)
truncate -s 32M "$work/volume.raw"
mkfs.btrfs -q --mixed -n 4096 -s 4096 -L harbour "$work/volume.raw"
mkdir "$work/mounted"
mount -o loop "$work/volume.raw" "$work/mounted"
trap 'umount "$work/mounted" 2>/dev/null || true; rm -rf "$work"' EXIT
python3 - "$work/mounted" <<'P'
import os, sys

os.chdir(sys.argv[1])

def put(path, content, time=None, mode=0o644):
    with open(path, 'wb') as file:
        file.write(content)
    os.chmod(path, mode)
    if time is not None:
        os.utime(path, ns=(time, time))

os.makedirs('quay/north')
put('tide.txt', b'High water 06:12\n', 1700000000123456789, 0o640)
os.chown('tide.txt', 1000, 1001)
os.setxattr('tide.txt', 'user.owner', b'purser')
os.setxattr('tide.txt', 'user.note', b'x' * 40)
put('empty', b'', -1000000000 * 10**9)
put('quay/\u6f6e\u6c50 \u00c5ngstr\u00f6m.csv', b'a,b\n' * 3000, 4_000_000_000 * 10**9)
put('attributes', b'1')
for i in range(60):
    os.setxattr('attributes', 'user.key%d' % i, (b'value %d ' % i) * 6)
os.symlink('../tide.txt', 'quay/link')
os.symlink('/' + 'long/' * 120 + 'end', 'quay/long link')
os.link('tide.txt', 'quay/the same')
os.mkfifo('quay/fifo')
os.mknod('quay/device', 0o20600, os.makedev(4, 64))
# Folders in an inode, a block, several blocks, and many.
for folder, names in (('few', 3), ('some', 15), ('more', 90), ('many', 300)):
    os.makedirs(folder)
    for i in range(names):
        put('%s/a name that is rather long, %d' % (folder, i), b'%d' % i)
for i in range(0, 300, 7):
    os.unlink('many/a name that is rather long, %d' % i)
# In many pieces, with holes between; of two that were written by turns; and room that nothing was written to.
with open('holes', 'wb') as file:
    for i in range(0, 300, 2):
        file.seek(i * 4096)
        file.write(bytes([i % 251]) * 4096)
    file.truncate(350 * 4096 + 17)
with open('one', 'wb') as one, open('other', 'wb') as other:
    for i in range(60):
        for file in (one, other):
            file.write(bytes([(i * 7 + len(file.name)) % 256]) * 4096)
            file.flush()
            os.fdatasync(file.fileno())
reserved = os.open('reserved', os.O_CREAT | os.O_WRONLY, 0o600)
os.posix_fallocate(reserved, 0, 100000)
os.pwrite(reserved, b'written', 50000)
os.close(reserved)
P
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
(
  cd "$work/mounted"
  find . -mindepth 1 -printf '%P\t%y\t%s\t%T@\t%m\t%U\t%G\t%l\n' | sort | while IFS= read -r line; do
    path=${line%%$'\t'*}
    printf '%s\t%s\n' "$line" "$([ -f "$path" ] && [ ! -L "$path" ] && sha256sum <"$path" | cut -d ' ' -f 1)"
  done
) | gzip -9n >listing.tsv.gz
umount "$work/mounted"
gzip -9nc "$work/volume.raw" >volume.raw.gz
