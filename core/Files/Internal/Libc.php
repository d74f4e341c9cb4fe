<?php

declare(strict_types=1);

namespace Kaiseki\Core\Files\Internal;

use FFI;
use Kaiseki\Core\Files\Status;

/**
 * The calls of the C library (Linux, 64 bit) that PHP has no functions for: work below an open folder, never following a
 * link, with times in nanoseconds. Only where FFI is allowed, which is the command line: workers and bin/kaiseki.
 */
final class Libc
{
    public const O_RDONLY = 0;

    public const O_WRONLY = 01;

    public const O_CREAT = 0100;

    public const O_EXCL = 0200;

    public const O_DIRECTORY = 0200000;

    public const O_NOFOLLOW = 0400000;

    public const O_NONBLOCK = 04000;

    public const O_CLOEXEC = 02000000;

    public const O_PATH = 010000000;

    public const AT_FDCWD = -100;

    public const AT_SYMLINK_NOFOLLOW = 0x100;

    public const AT_REMOVEDIR = 0x200;

    public const AT_EMPTY_PATH = 0x1000;

    public const RENAME_NOREPLACE = 1;

    public const ENOENT = 2;

    public const EEXIST = 17;

    public const ENOSPC = 28;

    public const EDQUOT = 122;

    public const ELOOP = 40;

    public const ENOTDIR = 20;

    public const EINVAL = 22;

    public const ENODATA = 61;

    public const EOPNOTSUPP = 95;

    public const EAGAIN = 11;

    public const F_SETLEASE = 1024;

    public const F_RDLCK = 0;

    public const F_UNLCK = 2;

    public readonly FFI $c;

    private static ?self $only = null;

    private readonly FFI\CData $statx;

    private readonly FFI\CData $times;

    private function __construct()
    {
        $this->c = FFI::cdef(
            <<<'C'
            typedef struct { int64_t sec; uint32_t nsec; int32_t pad; } statx_time;
            typedef struct {
                uint32_t mask, blksize; uint64_t attributes; uint32_t nlink, uid, gid; uint16_t mode, pad1;
                uint64_t ino, size, blocks, attributes_mask; statx_time atime, btime, ctime, mtime;
                uint32_t rdev_major, rdev_minor, dev_major, dev_minor; uint64_t mnt_id; uint64_t spare[13];
            } statx_buffer;
            typedef struct { int64_t sec; int64_t nsec; } timespec_pair[2];
            int open(const char *path, int flags, ...);
            int openat(int dir, const char *path, int flags, uint32_t mode);
            int close(int fd);
            int64_t write(int fd, const char *bytes, uint64_t count);
            int64_t read(int fd, void *buffer, uint64_t count);
            int64_t lseek(int fd, int64_t offset, int whence);
            int ftruncate(int fd, int64_t length);
            int mkdirat(int dir, const char *path, uint32_t mode);
            int unlinkat(int dir, const char *path, int flags);
            int symlinkat(const char *target, int dir, const char *path);
            int linkat(int from, const char *old, int to, const char *new, int flags);
            int renameat2(int from, const char *old, int to, const char *new, uint32_t flags);
            int mkfifoat(int dir, const char *path, uint32_t mode);
            int fchmod(int fd, uint32_t mode);
            int fchmodat(int dir, const char *path, uint32_t mode, int flags);
            int fchown(int fd, uint32_t uid, uint32_t gid);
            int fchownat(int dir, const char *path, uint32_t uid, uint32_t gid, int flags);
            int utimensat(int dir, const char *path, const timespec_pair *times, int flags);
            int futimens(int fd, const timespec_pair *times);
            int statx(int dir, const char *path, int flags, uint32_t mask, statx_buffer *buffer);
            int64_t readlinkat(int dir, const char *path, char *buffer, uint64_t size);
            int64_t lgetxattr(const char *path, const char *name, void *value, uint64_t size);
            int setxattr(const char *path, const char *name, const char *value, uint64_t size, int flags);
            int removexattr(const char *path, const char *name);
            int fsetxattr(int fd, const char *name, const char *value, uint64_t size, int flags);
            int prctl(int option, uint64_t value);
            int syncfs(int fd);
            int fcntl(int fd, int command, int value);
            int *__errno_location(void);
            char *strerror(int number);
            C
            ,
            'libc.so.6',
        );
        $this->statx = $this->c->new('statx_buffer');
        $this->times = $this->c->new('timespec_pair');
    }

    public static function get(): self
    {
        return self::$only ??= new self;
    }

    public function errno(): int
    {
        return $this->c->__errno_location()[0];
    }

    public function reasonOf(int $errno): string
    {
        $reason = $this->c->strerror($errno);

        return is_string($reason) ? $reason : FFI::string($reason);
    }

    /** What stands at a name below an open folder ('' with AT_EMPTY_PATH: the folder itself); null if nothing does. */
    public function status(int $folder, string $name, int $flags = self::AT_SYMLINK_NOFOLLOW): ?Status
    {
        if ($this->c->statx($folder, $name, $flags, 0x7FF, FFI::addr($this->statx)) !== 0) {
            return null;
        }
        $s = $this->statx;

        return new Status(
            $s->mode & 0170000,
            $s->mode & 07777,
            $s->size,
            $s->mtime->sec * 1_000_000_000 + $s->mtime->nsec,
            $s->ctime->sec * 1_000_000_000 + $s->ctime->nsec,
            $s->uid,
            $s->gid,
            $s->nlink,
            $s->ino,
            ($s->dev_major << 20) | $s->dev_minor,
            $s->blocks * 512,
        );
    }

    /** Both times, access and change of content, in nanoseconds since 1970. */
    public function times(int $nanoseconds): FFI\CData
    {
        $seconds = intdiv($nanoseconds, 1_000_000_000);
        $rest = $nanoseconds % 1_000_000_000;
        if ($rest < 0) {
            $rest += 1_000_000_000;
            $seconds--;
        }
        foreach ([0, 1] as $i) {
            $this->times[$i]->sec = $seconds;
            $this->times[$i]->nsec = $rest;
        }

        return FFI::addr($this->times);
    }
}
