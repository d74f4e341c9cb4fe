<?php

declare(strict_types=1);

namespace Kaiseki\Core\Archive;

use DeflateContext;
use Kaiseki\Core\UnableToWrite;

/** Writes a gzip file of many members (RFC 1952), so that what begins a member can be read without what stands before it. */
final class GzipMemberWriter
{
    private ?DeflateContext $context = null;

    private string $buffer = '';

    private int $inMember = 0;

    private int $position = 0;

    private int $written = 0;

    /** Where the member in hand begins: what is written of it meanwhile does not move it. */
    private int $memberBegins = 0;

    /**
     * @param  resource  $file  opened for writing
     * @param  int  $memberBytes  a new member may begin after so many uncompressed bytes
     */
    public function __construct(private $file, private readonly int $memberBytes = 262144, private readonly int $level = 6)
    {
    }

    /** Ends the member if it is long enough; says where what is written next can be found. */
    public function mayBeginMember(): Place
    {
        if ($this->inMember >= $this->memberBytes) {
            $this->endMember();
        }

        return new Place($this->memberBegins, $this->inMember);
    }

    public function write(string $bytes): void
    {
        $this->buffer .= $bytes;
        $this->inMember += strlen($bytes);
        $this->position += strlen($bytes);
        if (strlen($this->buffer) >= 131072) {
            $this->deflate(ZLIB_NO_FLUSH);
        }
    }

    /** Uncompressed bytes written. */
    public function position(): int
    {
        return $this->position;
    }

    public function finish(): void
    {
        if ($this->inMember > 0 || $this->written === 0) {
            $this->endMember();
        }
        if (! fflush($this->file)) {
            throw UnableToWrite::full('', 'The archive');
        }
    }

    private function endMember(): void
    {
        $this->deflate(ZLIB_FINISH);
        $this->context = null;
        $this->inMember = 0;
        $this->memberBegins = $this->written;
    }

    private function deflate(int $flush): void
    {
        $this->context ??=
            deflate_init(ZLIB_ENCODING_GZIP, ['level' => $this->level]) ?: throw UnableToWrite::open('', 'With zlib the archive');
        $bytes = deflate_add($this->context, $this->buffer, $flush);
        $this->buffer = '';
        if ($bytes === false || ($bytes !== '' && @fwrite($this->file, $bytes) !== strlen($bytes))) {
            throw UnableToWrite::full('', 'The archive');
        }
        $this->written += strlen((string) $bytes);
    }
}
