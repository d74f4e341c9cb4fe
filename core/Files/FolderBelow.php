<?php

declare(strict_types=1);

namespace Kaiseki\Core\Files;

use FFI;
use Kaiseki\Core\Files\Internal\Libc;
use Kaiseki\Core\Files\Internal\OpenFiles;

/**
 * One folder of this machine and what lies below it, by paths that cannot leave it: each part of a path is opened from
 * the folder before it, and a link on the way is refused, also one that somebody puts there meanwhile.
 */
final class FolderBelow implements Target
{
    use OneByOne;

    private const OPEN_FOLDERS = 128;

    private readonly Libc $libc;

    /** @var array<array-key, int> path => descriptor, the most recently used last */
    private array $open = [];

    private readonly FFI\CData $buffer;

    private ?OpenFiles $inUse = null;

    private readonly int $user;

    private readonly int $group;

    /** Whether what is made in it gets its group. */
    private readonly bool $givesGroup;

    private const BUFFER = 262144;

    private function __construct(private readonly int $root, public readonly string $path)
    {
        $this->libc = Libc::get();
        $this->buffer = $this->libc->c->new('char['.self::BUFFER.']');
        $this->user = posix_geteuid();
        $this->group = posix_getegid();
        $this->givesGroup = (($this->status('')->mode ?? 0) & 02000) !== 0;
    }

    public function __destruct()
    {
        $this->forget();
        $this->libc->c->close($this->root);
    }

    /**
     * @param  string|null  $root  a folder at or above it, up to which links are followed and from which on none is;
     *                             null: the folder itself
     *
     * @throws UnableToRestore if it does not exist, is no folder, lies behind a link, or may not be entered
     */
    public static function open(string $path, ?string $root = null): self
    {
        return self::below($path, $root ?? $path, false);
    }

    /** Opens it, and makes it first if only its last part is missing: for nobody else to enter. */
    public static function make(string $path, ?string $root = null): self
    {
        return self::below($path, $root ?? dirname($path), true);
    }

    private static function below(string $path, string $root, bool $make): self
    {
        $libc = Libc::get();
        $fd = str_contains($path, "\0") ? -1 : $libc->c->open($root, Libc::O_RDONLY | Libc::O_DIRECTORY | Libc::O_CLOEXEC);
        $parts = self::partsBetween($root, $path);
        foreach ($fd < 0 ? [] : $parts as $i => $part) {
            if ($make && $i === count($parts) - 1) {
                $libc->c->mkdirat($fd, $part, 0700); // or it is there
            }
            $next = $libc->c->openat($fd, $part, Libc::O_RDONLY | Libc::O_DIRECTORY | Libc::O_NOFOLLOW | Libc::O_CLOEXEC, 0);
            $errno = $libc->errno();
            $libc->c->close($fd);
            if ($next < 0 && in_array($errno, [Libc::ELOOP, Libc::ENOTDIR], true)) {
                throw UnableToRestore::throughLink(implode('/', array_slice($parts, 0, $i + 1)));
            }
            if ($next < 0) {
                throw self::cannotOpen($path, $errno);
            }
            $fd = $next;
        }
        if ($fd < 0) {
            throw self::cannotOpen($path, $libc->errno());
        }

        return new self($fd, $path);
    }

    private static function cannotOpen(string $path, int $errno): UnableToRestore
    {
        return $errno === Libc::ENOENT
            ? UnableToRestore::targetMissing($path)
            : UnableToRestore::targetUnfit($path, Libc::get()->reasonOf($errno));
    }

    /**
     * @return list<string> the names on the way from a folder to one below it
     *
     * @throws UnableToRestore if it does not lie below it
     */
    public static function partsBetween(string $root, string $path): array
    {
        $rest = substr(rtrim($path, '/'), strlen(rtrim($root, '/')));
        if (rtrim($path, '/') !== rtrim($root, '/') && ! str_starts_with($path, rtrim($root, '/').'/')) {
            throw UnableToRestore::targetUnfit($path, "it does not lie in $root");
        }
        $parts = array_values(array_filter(explode('/', $rest), fn (string $part): bool => $part !== ''));
        if (array_intersect($parts, ['.', '..']) !== []) {
            throw UnableToRestore::targetUnfit($path, 'it goes back up');
        }

        return $parts;
    }

    public function label(): string
    {
        return $this->path;
    }

    public function owners(): Owners
    {
        return Owners::here();
    }

    public function timeStep(): int
    {
        return 1;
    }

    public function openForWriting(string $path): ?string
    {
        return ($this->inUse ??= OpenFiles::below($this->path))->at($path);
    }

    public function settle(): array
    {
        return [];
    }

    public function twin(): self
    {
        return $this;
    }

    public function status(string $path): ?Status
    {
        if ($path === '') {
            return $this->libc->status($this->root, '', Libc::AT_EMPTY_PATH);
        }
        [$folder, $name] = self::split($path);
        $fd = $this->descriptor($folder, false);

        return $fd === null ? null : $this->libc->status($fd, $name);
    }

    public function readLink(string $path): string
    {
        [$fd, $name] = $this->at($path);
        $length = $this->libc->c->readlinkat($fd, $name, $this->buffer, self::BUFFER);

        return $length < 0 ? '' : FFI::string($this->buffer, $length);
    }

    public function access(string $path, bool $isFolder): ?string
    {
        [$above, $name] = $path === '' ? ['', '.'] : self::split($path);
        $fd = $this->descriptor($above, false);
        if ($fd === null) {
            return null;
        }
        // By way of the open folder, and of no link at its end.
        $at = "/proc/self/fd/$fd/$name";
        $of = fn (string $attribute): ?string => ($length = $this->libc->c->lgetxattr($at, $attribute, $this->buffer, self::BUFFER)) > 0
            ? FFI::string($this->buffer, $length)
            : null;

        return PosixAcl::text($of(PosixAcl::ACCESS), $isFolder ? $of(PosixAcl::DEFAULT) : null);
    }

    /** Makes the folder, and those above it, where they are not there yet. */
    public function makeFolder(string $path, int $mode = 0700): void
    {
        if ($path === '' || isset($this->open[$path])) {
            return;
        }
        [$above, $name] = self::split($path);
        $this->makeFolder($above, $mode);
        [$fd] = $this->at($path);
        if ($this->libc->c->mkdirat($fd, $name, $mode) !== 0 && $this->libc->errno() !== Libc::EEXIST) {
            throw $this->failure($path);
        }
    }

    /** Opens a new file for writing; never one that is there, nor through a link. */
    public function createFile(string $path): FileBeingWritten
    {
        [$fd, $name] = $this->at($path);
        $file = $this->libc->c->openat(
            $fd,
            $name,
            Libc::O_WRONLY | Libc::O_CREAT | Libc::O_EXCL | Libc::O_NOFOLLOW | Libc::O_CLOEXEC,
            0600,
        );
        if ($file < 0) {
            throw $this->failure($path);
        }

        return new FileBeingWritten($file, $path, $this);
    }

    /** With as few calls as it takes: what the new file has by itself is not set again. */
    public function putFile(string $path, string $bytes, int $mode, int $uid, int $gid, int $mtime, bool $owner): void
    {
        [$fd, $name] = $this->at($path);
        $c = $this->libc->c;
        $before = umask(0); // cheaper than to set the mode of each file again
        $file = $c->openat($fd, $name, Libc::O_WRONLY | Libc::O_CREAT | Libc::O_EXCL | Libc::O_NOFOLLOW | Libc::O_CLOEXEC, $mode & 0777);
        $errno = $this->libc->errno();
        umask($before);
        if ($file < 0) {
            throw $this->failure($path, $errno);
        }
        $length = strlen($bytes);
        $written = $c->write($file, $bytes, $length);
        for (; $written >= 0 && $written < $length; $written += $more) {
            $more = $c->write($file, substr($bytes, $written), $length - $written);
            if ($more <= 0) {
                $written = -1;
                break;
            }
        }
        if ($written < 0) {
            $failure = $this->failure($path);
            $c->close($file);
            throw $failure;
        }
        if ($owner && ($uid !== $this->user || $gid !== $this->group || $this->givesGroup)) {
            $c->fchown($file, $uid, $gid);
        }
        if (($mode & ~0777) !== 0) {
            $c->fchmod($file, $mode);
        }
        $c->futimens($file, $this->libc->times($mtime));
        if ($c->close($file) !== 0) {
            throw $this->failure($path);
        }
    }

    public function symlink(string $target, string $path): void
    {
        [$fd, $name] = $this->at($path);
        $this->must($this->libc->c->symlinkat($target, $fd, $name), $path);
    }

    public function hardLink(string $existing, string $path): void
    {
        [$from, $old] = $this->at($existing);
        [$to, $new] = $this->at($path);
        $this->must($this->libc->c->linkat($from, $old, $to, $new, 0), $path);
    }

    public function fifo(string $path): void
    {
        [$fd, $name] = $this->at($path);
        $this->must($this->libc->c->mkfifoat($fd, $name, 0600), $path);
    }

    /** Renames within this folder, replacing nothing: false if something stands at the new name. */
    public function rename(string $from, string $to): bool
    {
        [$fromFd, $old] = $this->at($from);
        [$toFd, $new] = $this->at($to);
        $this->forget($from);
        if ($this->libc->c->renameat2($fromFd, $old, $toFd, $new, Libc::RENAME_NOREPLACE) === 0) {
            return true;
        }
        $errno = $this->libc->errno();
        if ($errno === Libc::EEXIST) {
            return false;
        }
        if ($errno === Libc::EINVAL && $this->libc->status($toFd, $new) === null) {
            // A file system without that flag: looked first, then renamed.
            $this->must($this->libc->c->renameat2($fromFd, $old, $toFd, $new, 0), $to);

            return true;
        }
        throw $this->failure($to);
    }

    /**
     * Renames into another folder of the same file system, replacing nothing.
     *
     * @throws UnableToRestore also if something stands there
     */
    public function moveTo(string $from, self $other, string $to): void
    {
        [$fromFd, $old] = $this->at($from);
        [$toFd, $new] = $other->at($to);
        $this->forget($from);
        $this->must($this->libc->c->renameat2($fromFd, $old, $toFd, $new, Libc::RENAME_NOREPLACE), $from);
    }

    /** Whether a program has a file open for writing: then no lease for reading is given on it (fcntl(2), F_SETLEASE). */
    public function isOpenForWriting(string $path): bool
    {
        $file = $this->forReading($path);
        if ($file < 0) {
            return false;
        }
        $isOpen = $this->libc->c->fcntl($file, Libc::F_SETLEASE, Libc::F_RDLCK) !== 0 && $this->libc->errno() === Libc::EAGAIN;
        $this->libc->c->fcntl($file, Libc::F_SETLEASE, Libc::F_UNLCK);
        $this->libc->c->close($file);

        return $isOpen;
    }

    /** Removes one file, link or empty folder; nothing happens if it is gone. */
    public function remove(string $path): bool
    {
        $status = $this->status($path);
        if ($status === null) {
            return true;
        }
        [$fd, $name] = $this->at($path);
        if ($status->type === Status::FOLDER) {
            $this->forget($path);
        }

        return $this->libc->c->unlinkat($fd, $name, $status->type === Status::FOLDER ? Libc::AT_REMOVEDIR : 0) === 0;
    }

    public function removeIfEmpty(): void
    {
        $here = $this->status('');
        $named = @lstat($this->path);
        if ($here !== null && $named !== false && $named['ino'] === $here->inode) {
            @rmdir($this->path);
        }
    }

    /** Removes a folder and all below it, following no link. */
    public function removeTree(string $path): void
    {
        $status = $this->status($path);
        if ($status?->type === Status::FOLDER) {
            foreach ($this->names($path) as $name) {
                $this->removeTree($path === '' ? $name : "$path/$name");
            }
        }
        $this->remove($path);
    }

    /** @return list<string> the names in a folder; none if it is not there */
    public function names(string $path): array
    {
        $fd = $this->descriptor($path, false);
        if ($fd === null) {
            return [];
        }

        return array_values(array_diff(@scandir("/proc/self/fd/$fd", SCANDIR_SORT_NONE) ?: [], ['.', '..']));
    }

    /** Owner before mode: a change of owner takes set-user bits away. Mode null leaves it, as for links. */
    public function describe(string $path, ?int $mode, int $uid, int $gid, int $mtime, bool $owner): void
    {
        [$fd, $name] = $path === '' ? [$this->root, '.'] : $this->at($path);
        if ($owner) {
            $this->libc->c->fchownat($fd, $name, $uid, $gid, Libc::AT_SYMLINK_NOFOLLOW);
        }
        if ($mode !== null) {
            $this->libc->c->fchmodat($fd, $name, $mode, 0);
        }
        $this->libc->c->utimensat($fd, $name, $this->libc->times($mtime), Libc::AT_SYMLINK_NOFOLLOW);
    }

    public function permit(string $path, Permissions $permissions, bool $owner): void
    {
        [$fd, $name] = $path === '' ? [$this->root, '.'] : $this->at($path);
        $opened = $this->libc->c->openat($fd, $name, Libc::O_PATH | Libc::O_NOFOLLOW | Libc::O_CLOEXEC, 0);
        if ($opened < 0) {
            throw $this->failure($path);
        }
        try {
            $type = $this->libc->status($opened, '', Libc::AT_EMPTY_PATH)?->type;
            if ($type !== Status::FILE && $type !== Status::FOLDER && $type !== Status::FIFO) {
                throw UnableToRestore::at($path, 'it has no permissions of its own');
            }
            $this->permitOpened($opened, $path, $permissions, $owner, $type === Status::FOLDER);
        } finally {
            $this->libc->c->close($opened);
        }
    }

    /** Owner before list before mode: a change of owner takes set-user bits away, and one of the list permission bits. */
    private function permitOpened(int $opened, string $path, Permissions $to, bool $owner, bool $isFolder): void
    {
        $c = $this->libc->c;
        if ($owner) {
            $this->must($c->fchownat($opened, '', $to->uid, $to->gid, Libc::AT_EMPTY_PATH), $path);
        }
        $at = "/proc/self/fd/$opened"; // what was opened, whatever stands at its name by now
        $acl = $to->access === null ? null : PosixAcl::ofText($to->access);
        $lists = $acl === null ? [] : [PosixAcl::ACCESS => $acl->access] + ($isFolder ? [PosixAcl::DEFAULT => $acl->default] : []);
        foreach ($lists as $name => $list) {
            $done = $list === null ? $c->removexattr($at, $name) : $c->setxattr($at, $name, $list, strlen($list), 0);
            if ($done !== 0 && ! ($list === null && in_array($this->libc->errno(), [Libc::ENODATA, Libc::EOPNOTSUPP], true))) {
                throw $this->failure($path);
            }
        }
        $this->must($c->fchmodat(Libc::AT_FDCWD, $at, $to->mode, 0), $path);
    }

    /**
     * Opens a file for reading; null if it is not there, is no regular file, or may not be read.
     *
     * @return resource|null
     */
    public function read(string $path)
    {
        $file = $this->forReading($path);
        if ($file < 0) {
            return null;
        }
        // Not by way of /proc: PHP would remember for two minutes which file a descriptor's number once stood for.
        $stream = @fopen("php://fd/$file", 'rb');
        $this->libc->c->close($file);
        $isFile = $stream !== false && ((fstat($stream) ?: ['mode' => 0])['mode'] & 0170000) === Status::FILE;

        return $stream === false || ! $isFile ? null : $stream;
    }

    /** BLAKE2b-256 of a file as it stands on the disk; null if it cannot be read. */
    public function digest(string $path, ?int $size = null): ?string
    {
        $file = $this->forReading($path);
        if ($file < 0) {
            return null;
        }
        $read = $this->libc->c->read($file, $this->buffer, self::BUFFER);
        if ($read >= 0 && $read < self::BUFFER) {
            $digest = sodium_crypto_generichash($read === 0 ? '' : FFI::string($this->buffer, $read), '', 32);
            // A short read is the end of the file for regular files, but only a second one, or its known size, proves it.
            if ($read === $size || $this->libc->c->read($file, $this->buffer, 1) === 0) {
                $this->libc->c->close($file);

                return $digest;
            }
            $this->libc->c->lseek($file, 0, 0);
            $read = $this->libc->c->read($file, $this->buffer, self::BUFFER);
        }
        $state = sodium_crypto_generichash_init('', 32);
        for (; $read > 0; $read = $this->libc->c->read($file, $this->buffer, self::BUFFER)) {
            sodium_crypto_generichash_update($state, FFI::string($this->buffer, $read));
        }
        $this->libc->c->close($file);

        return $read < 0 ? null : sodium_crypto_generichash_final($state, 32);
    }

    /** Waits until all that was written to this file system is on the disk. */
    public function sync(): void
    {
        if ($this->libc->c->syncfs($this->root) !== 0) {
            throw $this->failure('');
        }
    }

    public function freeBytes(): int
    {
        return (int) (@disk_free_space($this->path) ?: 0);
    }

    /** @param  int|null  $errno  null: of the last call */
    public function failure(string $path, ?int $errno = null): UnableToRestore
    {
        $errno ??= $this->libc->errno();

        return match (true) {
            $errno === Libc::ENOSPC, $errno === Libc::EDQUOT => UnableToRestore::full($this->path),
            default => UnableToRestore::at($path, $this->libc->reasonOf($errno)),
        };
    }

    /** @return array{int, string} the open folder a path lies in, and its name there */
    private function at(string $path): array
    {
        [$folder, $name] = self::split($path);
        $fd = $this->descriptor($folder, true);
        assert($fd !== null);

        return [$fd, $name];
    }

    /** A descriptor of a file, below zero if it cannot be opened. */
    private function forReading(string $path): int
    {
        [$folder, $name] = self::split($path);
        $fd = $this->descriptor($folder, false);

        return $fd === null
            ? -1
            : $this->libc->c->openat($fd, $name, Libc::O_RDONLY | Libc::O_NOFOLLOW | Libc::O_NONBLOCK | Libc::O_CLOEXEC, 0);
    }

    private function descriptor(string $folder, bool $must): ?int
    {
        if ($folder === '') {
            return $this->root;
        }
        if (isset($this->open[$folder])) {
            return $this->open[$folder];
        }
        [$above, $name] = self::split($folder);
        $fd = $this->descriptor($above, $must);
        if ($fd === null) {
            return null;
        }
        $opened =
            $name === '..' || $name === '.' || str_contains($name, "\0")
                ? -1
                : $this->libc->c->openat($fd, $name, Libc::O_RDONLY | Libc::O_DIRECTORY | Libc::O_NOFOLLOW | Libc::O_CLOEXEC, 0);
        if ($opened < 0) {
            if (! $must) {
                return null;
            }
            $errno = $this->libc->errno();
            throw in_array($errno, [Libc::ELOOP, Libc::ENOTDIR], true) ? UnableToRestore::throughLink($folder) : $this->failure($folder);
        }
        if (count($this->open) >= self::OPEN_FOLDERS) {
            $oldest = array_key_first($this->open);
            $this->libc->c->close($this->open[$oldest]);
            unset($this->open[$oldest]);
        }

        return $this->open[$folder] = $opened;
    }

    /** Closes the folders at and below a path (all of them without one): their names may mean something else now. */
    private function forget(?string $path = null): void
    {
        foreach ($this->open as $folder => $fd) {
            if ($path === null || $folder === $path || str_starts_with((string) $folder, "$path/")) {
                $this->libc->c->close($fd);
                unset($this->open[$folder]);
            }
        }
    }

    private function must(int $result, string $path): void
    {
        if ($result !== 0) {
            throw $this->failure($path);
        }
    }

    /** @return array{string, string} */
    private static function split(string $path): array
    {
        $slash = strrpos($path, '/');

        return $slash === false ? ['', $path] : [substr($path, 0, $slash), substr($path, $slash + 1)];
    }
}
