<?php

declare(strict_types=1);

namespace Kaiseki\Core\Archive;

use RuntimeException;

final class UnreadableArchive extends RuntimeException
{
    /** From this uncompressed position on nothing that was read may be trusted. */
    public readonly int $soundUntil;

    /** Whether the bytes themselves end or break there, so that nothing behind it can be read in the same gzip member. */
    public readonly bool $isBreak;

    private function __construct(string $message, int $soundUntil, bool $isBreak = false)
    {
        parent::__construct($message);
        $this->soundUntil = $soundUntil;
        $this->isBreak = $isBreak;
    }

    public static function cannotOpen(string $because): self
    {
        return new self("cannot be opened: $because", 0);
    }

    public static function endsEarly(int $at): self
    {
        return new self("is cut short: it ends after $at uncompressed bytes, within something", $at);
    }

    /** @param  int  $soundUntil start of the gzip member whose checksum could not be confirmed */
    public static function badCompression(int $fileOffset, int $soundUntil): self
    {
        return new self("is damaged: the gzip data near byte $fileOffset cannot be inflated or fail their checksum", $soundUntil, true);
    }

    public static function badHeader(int $at): self
    {
        return new self("is damaged: the header at uncompressed byte $at fails its checksum", $at);
    }

    public static function notTar(): self
    {
        return new self('is not a tar archive: its first block is no header', 0);
    }

    public static function refused(string $because, int $at): self
    {
        return new self("was refused at uncompressed byte $at: $because", $at);
    }
}
