<?php

declare(strict_types=1);

namespace App\Hosts;

use App\Models\Host;
use Kaiseki\Core\Archive\ContentDigest;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Files\FolderBelow;
use Kaiseki\Core\Files\NewFile;
use Kaiseki\Core\Files\OneByOne;
use Kaiseki\Core\Files\Owners;
use Kaiseki\Core\Files\Permissions;
use Kaiseki\Core\Files\Status;
use Kaiseki\Core\Files\Target;
use Kaiseki\Core\Files\UnableToRestore;
use League\Flysystem\FilesystemException;
use League\Flysystem\PhpseclibV3\SftpConnectionProvider;
use League\Flysystem\PhpseclibV3\UnableToAuthenticate;
use League\Flysystem\PhpseclibV3\UnableToConnectToSftpHost;
use League\Flysystem\PhpseclibV3\UnableToEstablishAuthenticityOfHost;
use phpseclib3\Net\SFTP;
use RuntimeException;
use Throwable;

/**
 * A folder of a host that is reached by SFTP. Flysystem makes the connection and knows the host by its key; links, modes
 * and times need the session itself (docs/decisions/0016-targets.md). No link is gone through: every folder on the way is
 * looked at first. Times are whole seconds, which is all that version 3 of the protocol has.
 */
final class SftpFolder implements Target
{
    use OneByOne;

    private readonly SFTP $session;

    /** @var array<array-key, bool> folder => whether it is one, and no link */
    private array $folders = [];

    private function __construct(private readonly Host $host, HostKey $key, private readonly string $folder)
    {
        $provider = new SftpConnectionProvider(
            (string) $host->address,
            (string) $host->user,
            $key->password,
            $key->privateKey,
            null,
            $host->port ?? 22,
            false,
            20,
            1,
            $host->fingerprint,
        );
        try {
            $this->session = $provider->provideConnection();
        } catch (UnableToEstablishAuthenticityOfHost) {
            throw UnableToRestore::targetUnfit(
                $host->name,
                'it shows another key than the one that is known of it; it may be another machine',
            );
        } catch (UnableToAuthenticate) {
            throw UnableToRestore::targetUnfit($host->name, "it does not let {$host->user} in with what signs in there");
        } catch (UnableToConnectToSftpHost|FilesystemException|RuntimeException $failure) {
            throw UnableToRestore::targetUnfit(
                $host->name,
                "{$host->address}:{$host->port} does not answer: ".($failure->getPrevious() ?? $failure)->getMessage(),
            );
        }
        $this->session->disableStatCache();
        $this->refuseLinks();
    }

    /** From the folder that the host gives us on, nothing on the way is a link. */
    private function refuseLinks(): void
    {
        $at = rtrim($this->host->folder, '/');
        foreach (FolderBelow::partsBetween($this->host->folder, $this->folder) as $part) {
            $at .= "/$part";
            $found = $this->session->lstat($at);
            if (is_array($found) && ($found['mode'] & 0170000) !== Status::FOLDER) {
                throw UnableToRestore::throughLink($at);
            }
        }
    }

    public static function at(Host $host, HostKey $key, string $folder): self
    {
        return new self($host, $key, rtrim($folder, '/') ?: '/');
    }

    /** Makes it first if only its last part is missing. */
    public static function make(Host $host, HostKey $key, string $folder): self
    {
        $open = self::at($host, $key, $folder);
        if ($open->session->lstat($open->folder) === false) {
            if (! $open->session->mkdir($open->folder, 0700)) {
                throw UnableToRestore::targetMissing($open->label());
            }
            $open->session->chmod(0700, $open->folder);
        }
        if (! $open->session->is_dir($open->folder)) {
            throw UnableToRestore::targetUnfit($open->label(), 'it is no folder');
        }

        return $open;
    }

    /** @throws UnableToRestore if a small file cannot be written there, read and removed again */
    public function tryOut(): void
    {
        if (! $this->session->is_dir($this->folder)) {
            throw UnableToRestore::targetUnfit($this->label(), 'it is not there, or no folder');
        }
        $name = '.kaiseki-try-'.bin2hex(random_bytes(6));
        $file = $this->createFile($name);
        $file->data($name);
        $file->finish(0600, 0, 0, 0, false);
        $digest = $this->digest($name);
        $this->remove($name);
        if ($digest !== ContentDigest::of($name)) {
            throw UnableToRestore::targetUnfit($this->label(), 'what was written there did not come back as it was');
        }
    }

    public function label(): string
    {
        return "{$this->host->name}:{$this->folder}";
    }

    public function owners(): Owners
    {
        return Owners::elsewhere($this->host->user === 'root');
    }

    public function timeStep(): int
    {
        return 1_000_000_000;
    }

    public function openForWriting(string $path): ?string
    {
        return null;
    }

    public function settle(): array
    {
        return [];
    }

    public function twin(): null
    {
        return null;
    }

    public function status(string $path): ?Status
    {
        $found =
            $path === ''
                ? $this->session->stat($this->folder)
                : ($this->isFolder(EntryPath::split($path)[0])
                    ? $this->session->lstat($this->full($path))
                    : false);

        return ! is_array($found)
            ? null
            : new Status(
                $found['mode'] & 0170000,
                $found['mode'] & 07777,
                (int) $found['size'],
                (int) $found['mtime'] * 1_000_000_000,
                (int) $found['mtime'] * 1_000_000_000,
                $found['uid'],
                $found['gid'],
                1,
                crc32($path),
                0,
                (int) $found['size'],
            );
    }

    public function names(string $path): array
    {
        $names = $this->isFolder($path) ? $this->session->nlist($this->full($path)) : [];

        return is_array($names) ? array_values(array_diff($names, ['.', '..'])) : [];
    }

    public function readLink(string $path): string
    {
        return $this->isFolder(EntryPath::split($path)[0]) ? (string) $this->session->readlink($this->full($path)) : '';
    }

    /** The protocol has no way to ask for it. */
    public function access(string $path, bool $isFolder): ?string
    {
        return null;
    }

    public function digest(string $path, ?int $size = null): ?string
    {
        if ($this->status($path)?->type !== Status::FILE) {
            return null;
        }
        $digest = new ContentDigest;
        $read = $this->session->get($this->full($path), function (string $bytes) use ($digest): void {
            $digest->data($bytes);
        });

        return $read === false ? null : $digest->finish();
    }

    public function read(string $path)
    {
        $stream = $this->status($path)?->type === Status::FILE ? fopen('php://temp', 'w+b') : false;
        if ($stream === false || $this->session->get($this->full($path), $stream) === false) {
            return null;
        }
        rewind($stream);

        return $stream;
    }

    public function freeBytes(): int
    {
        try {
            $volume = $this->session->statvfs($this->folder);
        } catch (RuntimeException) {
            return PHP_INT_MAX; // it does not tell
        }

        return is_array($volume) ? $volume['bavail'] * $volume['frsize'] : PHP_INT_MAX;
    }

    public function makeFolder(string $path, int $mode = 0700): void
    {
        if ($path === '' || $this->isFolder($path)) {
            return;
        }
        $this->makeFolder(EntryPath::split($path)[0], $mode);
        if (! $this->session->mkdir($this->full($path), $mode)) {
            throw $this->failure($path);
        }
        $this->session->chmod($mode, $this->full($path)); // the host's umask takes bits away
        $this->folders[$path] = true;
    }

    public function createFile(string $path): NewFile
    {
        $this->mustBeFree($path);

        return new SftpFile($this->session, $this->full($path), fn (): UnableToRestore => $this->failure($path));
    }

    public function putFile(string $path, string $bytes, int $mode, int $uid, int $gid, int $mtime, bool $owner): void
    {
        $file = $this->createFile($path);
        $file->data($bytes);
        $file->finish($mode, $uid, $gid, $mtime, $owner);
    }

    public function symlink(string $target, string $path): void
    {
        $this->mustBeFree($path);
        $this->must($this->session->symlink($target, $this->full($path)), $path);
    }

    public function hardLink(string $existing, string $path): void
    {
        $this->mustBeFree($path);
        try {
            $linked = $this->session->hardlink($this->full($existing), $this->full($path));
        } catch (RuntimeException) {
            throw UnableToRestore::at($path, 'the host makes no second names of a file');
        }
        $this->must($linked, $path);
    }

    public function fifo(string $path): void
    {
        throw UnableToRestore::at($path, 'pipes cannot be made over SFTP');
    }

    public function rename(string $from, string $to): bool
    {
        if ($this->status($to) !== null) {
            return false;
        }
        $this->forget($from);
        $this->must($this->isFolder(EntryPath::split($to)[0]) && $this->session->rename($this->full($from), $this->full($to)), $to);

        return true;
    }

    public function remove(string $path): bool
    {
        $status = $this->status($path);
        if ($status === null) {
            return true;
        }
        $this->forget($path);

        return $status->type === Status::FOLDER
            ? $this->session->rmdir($this->full($path))
            : (bool) $this->session->delete($this->full($path), false);
    }

    public function removeIfEmpty(): void
    {
        $this->session->rmdir($this->folder);
    }

    public function removeTree(string $path): void
    {
        if ($this->status($path)?->type === Status::FOLDER) {
            foreach ($this->names($path) as $name) {
                $this->removeTree("$path/$name");
            }
        }
        $this->remove($path);
    }

    public function describe(string $path, ?int $mode, int $uid, int $gid, int $mtime, bool $owner): void
    {
        if ($mode === null || ! $this->isFolder(EntryPath::split($path)[0])) {
            return; // of a link nothing can be set over SFTP: it would be set of what it leads to
        }
        SftpFile::describe($this->session, $this->full($path), $mode, $uid, $gid, $mtime, $owner);
    }

    public function permit(string $path, Permissions $permissions, bool $owner): void
    {
        $status = $this->status($path);
        if ($status === null || $status->type === Status::SYMLINK) {
            throw UnableToRestore::at($path, 'nothing stands there that has permissions of its own');
        }
        if (($permissions->access ?? '') !== '') {
            throw UnableToRestore::at($path, 'access lists cannot be given over SFTP');
        }
        $full = $this->full($path);
        if ($owner) {
            $this->must($this->session->chown($full, $permissions->uid) && $this->session->chgrp($full, $permissions->gid), $path);
        }
        $this->must($this->session->chmod($permissions->mode, $full) !== false, $path);
    }

    public function sync(): void
    {
        // The protocol has nothing for it.
    }

    private function full(string $path): string
    {
        return rtrim($this->folder, '/').($path === '' ? '' : "/$path");
    }

    private function isFolder(string $folder): bool
    {
        if ($folder === '') {
            return true;
        }
        if (! isset($this->folders[$folder])) {
            if ($this->status($folder)?->type !== Status::FOLDER) {
                return false;
            }
            $this->folders[$folder] = true;
        }

        return true;
    }

    private function mustBeFree(string $path): void
    {
        if (! $this->isFolder(EntryPath::split($path)[0])) {
            throw UnableToRestore::throughLink(EntryPath::split($path)[0]);
        }
        if ($this->status($path) !== null) {
            throw UnableToRestore::at($path, 'something stands there');
        }
    }

    private function forget(string $path): void
    {
        foreach (array_keys($this->folders) as $folder) {
            if ((string) $folder === $path || str_starts_with((string) $folder, "$path/")) {
                unset($this->folders[$folder]);
            }
        }
    }

    private function must(bool $done, string $path): void
    {
        if (! $done) {
            throw $this->failure($path);
        }
    }

    /** The protocol has no word for a full volume: a write that fails where none is left is taken for that. */
    private function failure(string $path): UnableToRestore
    {
        try {
            $full = $this->freeBytes() < 4096;
        } catch (Throwable) {
            return UnableToRestore::targetUnfit($this->label(), 'the connection was lost');
        }

        return $full
            ? UnableToRestore::full($this->label())
            : UnableToRestore::at($path, (string) $this->session->getLastSFTPError() ?: 'the host refused it');
    }
}
