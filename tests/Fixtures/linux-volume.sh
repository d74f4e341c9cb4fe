# Sourced by the make.sh of volumes that Linux writes: what is in each of them, and the listing of what Linux reads of it.

# fill_volume FOLDER NAMES PIECES: files of all kinds; so many names in the largest folder; so many pieces of two files written by turns.
fill_volume() {
  python3 - "$@" <<'P'
import os, subprocess, sys

os.chdir(sys.argv[1])
most, pieces = int(sys.argv[2]), int(sys.argv[3])

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
put('guarded', b'1', None, 0o750)
subprocess.run(['setfacl', '-m', 'u:70001:r,g:12:rw', 'guarded'], check=True)
os.setxattr('guarded', 'security.capability', bytes.fromhex('0100000200200000000000000000000000000000'))
os.setxattr('guarded', 'trusted.berth', b'nine')
os.makedirs('shared')
subprocess.run(['setfacl', '-d', '-m', 'u:70001:rwx', 'shared'], check=True)
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
# Folders of few names, some, and many, of which some went again.
for folder, names in (('few', 3), ('some', 15), ('more', 90), ('many', most)):
    os.makedirs(folder)
    for i in range(names):
        put('%s/a name that is rather long, %d' % (folder, i), b'%d' % i)
for i in range(0, most, 7):
    os.unlink('many/a name that is rather long, %d' % i)
# In very many pieces, with holes between; of two that were written by turns; and room that nothing was written to.
with open('holes', 'wb') as file:
    for i in range(0, 300, 2):
        file.seek(i * 4096)
        file.write(bytes([i % 251]) * 4096)
    file.truncate(350 * 4096 + 17)
with open('one', 'wb') as one, open('other', 'wb') as other:
    for i in range(pieces):
        for file in (one, other):
            file.write(bytes([(i * 7 + len(file.name)) % 256]) * 4096)
            file.flush()
            os.fdatasync(file.fileno())
reserved = os.open('reserved', os.O_CREAT | os.O_WRONLY, 0o600)
os.posix_fallocate(reserved, 0, 100000)
os.pwrite(reserved, b'written', 50000)
os.close(reserved)
P
}

# list_volume FOLDER: path, kind, bytes, seconds since 1970, mode, owner, group, target, SHA-256 of each file.
list_volume() {
  (
    cd "$1"
    find . -mindepth 1 -printf '%P\t%y\t%s\t%T@\t%m\t%U\t%G\t%l\n' | sort | while IFS= read -r line; do
      path=${line%%$'\t'*}
      printf '%s\t%s\n' "$line" "$([ -f "$path" ] && [ ! -L "$path" ] && sha256sum <"$path" | cut -d ' ' -f 1)"
    done
  )
}
