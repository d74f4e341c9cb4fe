<?php

declare(strict_types=1);

namespace Kaiseki\Core\Files;

use Kaiseki\Core\Files\Internal\Libc;

/** A new file below an open folder of this machine. Holes stay holes. */
final class FileBeingWritten implements NewFile
{
    private int $size = 0;

    private bool $endsInHole = false;

    private readonly Libc $libc;

    public function __construct(private int $descriptor, private readonly string $path, private readonly FolderBelow $folder)
    {
        $this->libc = Libc::get();
    }

    public function __destruct()
    {
        if ($this->descriptor >= 0) {
            $this->libc->c->close($this->descriptor);
        }
    }

    public function data(string $bytes): void
    {
        $length = strlen($bytes);
        for ($done = 0; $done < $length; $done += $written) {
            $written = $this->libc->c->write($this->descriptor, $done === 0 ? $bytes : substr($bytes, $done), $length - $done);
            if ($written <= 0) {
                throw $this->folder->failure($this->path);
            }
        }
        $this->size += $length;
        $this->endsInHole = $this->endsInHole && $length === 0;
    }

    public function hole(int $length): void
    {
        $this->libc->c->lseek($this->descriptor, $length, 1);
        $this->size += $length;
        $this->endsInHole = true;
    }

    public function extend(array $extended): array
    {
        $refused = [];
        foreach ($extended as $keyword => $value) {
            $name = substr($keyword, 13);
            // Only what users may set themselves: others say how the system treats the file.
            $isAllowed = str_starts_with($keyword, 'SCHILY.xattr.user.');
            if (! $isAllowed || $this->libc->c->fsetxattr($this->descriptor, $name, $value, strlen($value), 0) !== 0) {
                $refused[] = $keyword;
            }
        }

        return $refused;
    }

    /**
     * The file for another process, which writes its content; this one then hears where it ends.
     *
     * @return resource
     *
     * @throws UnableToRestore
     */
    public function stream()
    {
        return @fopen("php://fd/{$this->descriptor}", 'r+b') ?: throw UnableToRestore::at($this->path, 'it cannot be handed over');
    }

    public function endsAt(int $size): void
    {
        $this->size = $size;
        $this->endsInHole = true; // as far as this process knows
    }

    /** Owner before mode: a change of owner takes set-user bits away. */
    public function finish(int $mode, int $uid, int $gid, int $mtime, bool $owner): void
    {
        if ($this->endsInHole && $this->libc->c->ftruncate($this->descriptor, $this->size) !== 0) {
            throw $this->folder->failure($this->path);
        }
        if ($owner) {
            $this->libc->c->fchown($this->descriptor, $uid, $gid);
        }
        $this->libc->c->fchmod($this->descriptor, $mode);
        $this->libc->c->futimens($this->descriptor, $this->libc->times($mtime));
        $closed = $this->libc->c->close($this->descriptor);
        $this->descriptor = -1;
        if ($closed !== 0) {
            throw $this->folder->failure($this->path);
        }
    }
}
