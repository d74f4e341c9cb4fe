<?php

declare(strict_types=1);

namespace Kaiseki\Core\Host;

use Closure;
use Kaiseki\Core\Files\NewFile;
use Kaiseki\Core\Files\UnableToRestore;

/** A new file of a host: it was made and handed over by the host's process, which also gives it owner, mode and time. */
final class HostFile implements NewFile
{
    private int $size = 0;

    private bool $isOpen = true;

    /**
     * @param  Closure(Ask, string ...): list<string>  $ask
     * @param  resource  $stream
     * @param  Closure(): UnableToRestore  $full
     */
    public function __construct(
        private readonly Closure $ask,
        private readonly string $number,
        private $stream,
        private readonly Closure $full,
    ) {
    }

    public function __destruct()
    {
        if ($this->isOpen) {
            fclose($this->stream);
            try {
                ($this->ask)(Ask::Drop, $this->number);
            } catch (UnableToRestore) {
                // the process is gone, and the file with it
            }
        }
    }

    public function data(string $bytes): void
    {
        for ($done = 0, $length = strlen($bytes); $done < $length; $done += $written) {
            $written = (int) @fwrite($this->stream, $done === 0 ? $bytes : substr($bytes, $done));
            if ($written === 0) {
                throw ($this->full)();
            }
        }
        $this->size += $length;
    }

    public function hole(int $length): void
    {
        $this->size += $length;
        fseek($this->stream, $this->size);
    }

    public function extend(array $extended): array
    {
        $flat = [];
        foreach ($extended as $keyword => $value) {
            array_push($flat, (string) $keyword, $value);
        }

        return ($this->ask)(Ask::Extend, $this->number, ...$flat);
    }

    public function finish(int $mode, int $uid, int $gid, int $mtime, bool $owner): void
    {
        $this->isOpen = false;
        fclose($this->stream);
        $numbers = array_map(strval(...), [$this->size, $mode, $uid, $gid, $mtime]);
        ($this->ask)(Ask::Finish, $this->number, ...[...$numbers, $owner ? '1' : '']);
    }
}
