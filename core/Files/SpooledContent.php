<?php

declare(strict_types=1);

namespace Kaiseki\Core\Files;

use Generator;
use Kaiseki\Core\Archive\ContentSink;
use Kaiseki\Core\UnableToWrite;

/** A content on its way to somewhere else: in memory while it is small, then in a temporary file. */
final class SpooledContent implements ContentSink
{
    private const PIECE = 1 << 20;

    /** @var resource */
    private $stream;

    public function __construct()
    {
        $this->stream = fopen('php://temp/maxmemory:4194304', 'w+b') ?: throw UnableToWrite::open('php://temp', 'The temporary file');
    }

    public function data(string $bytes): void
    {
        if (fwrite($this->stream, $bytes) !== strlen($bytes)) {
            throw UnableToWrite::full('php://temp', 'The temporary file');
        }
    }

    public function hole(int $length): void
    {
        for ($zeros = str_repeat("\0", min($length, 1 << 20)); $length > 0; $length -= strlen($zeros)) {
            $this->data($length < strlen($zeros) ? substr($zeros, 0, $length) : $zeros);
        }
    }

    /** @return Generator<string> all of it, from its beginning */
    public function pieces(): Generator
    {
        for ($from = $this->rewound(); ($bytes = (string) fread($from, self::PIECE)) !== '';) {
            yield $bytes;
        }
    }

    /** @return resource standing at its beginning */
    public function rewound()
    {
        rewind($this->stream);

        return $this->stream;
    }
}
