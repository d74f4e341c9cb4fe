<?php

declare(strict_types=1);

namespace App\Hosts;

use Closure;
use Kaiseki\Core\Files\NewFile;
use Kaiseki\Core\Files\UnableToRestore;
use phpseclib3\Net\SFTP;

/** A new file over SFTP: sent in pieces, so that none is held whole. Holes are not sent. */
final class SftpFile implements NewFile
{
    private const PIECE = 4 << 20;

    private string $waiting = '';

    /** Bytes before what waits. */
    private int $sent = 0;

    private bool $begun = false;

    /** @param  Closure(): UnableToRestore  $failure */
    public function __construct(private readonly SFTP $session, private readonly string $path, private readonly Closure $failure)
    {
    }

    public function data(string $bytes): void
    {
        $this->waiting .= $bytes;
        if (strlen($this->waiting) >= self::PIECE) {
            $this->send();
        }
    }

    public function hole(int $length): void
    {
        $this->send();
        $this->sent += $length;
    }

    public function extend(array $extended): array
    {
        return array_map(strval(...), array_keys($extended)); // the protocol has no way to set them
    }

    public function finish(int $mode, int $uid, int $gid, int $mtime, bool $owner): void
    {
        if ($this->waiting !== '' || ! $this->begun) {
            $this->send(true);
        }
        if ($this->session->filesize($this->path) !== $this->sent && ! $this->session->truncate($this->path, $this->sent)) {
            throw ($this->failure)(); // it ends in a hole
        }
        self::describe($this->session, $this->path, $mode, $uid, $gid, $mtime, $owner);
    }

    /** Owner before mode: a change of owner takes set-user bits away. */
    public static function describe(SFTP $session, string $path, int $mode, int $uid, int $gid, int $mtime, bool $owner): void
    {
        if ($owner) {
            $session->chown($path, $uid);
            $session->chgrp($path, $gid);
        }
        $session->chmod($mode, $path);
        $seconds = intdiv($mtime, 1_000_000_000);
        $session->touch($path, $seconds, $seconds);
    }

    private function send(bool $evenNothing = false): void
    {
        if ($this->waiting === '' && ! $evenNothing) {
            return;
        }
        if (! $this->session->put($this->path, $this->waiting, SFTP::SOURCE_STRING, $this->sent)) {
            throw ($this->failure)();
        }
        $this->begun = true;
        $this->sent += strlen($this->waiting);
        $this->waiting = '';
    }
}
