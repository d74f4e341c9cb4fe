<?php

declare(strict_types=1);

namespace App\Runs;

use Kaiseki\Core\Archive\ContentDigest;
use Kaiseki\Core\UnableToWrite;

/** A file that is written line by line, with the digest of all of it. */
final class DigestedFile
{
    private const BUFFER = 1 << 16;

    /** @var resource */
    private $file;

    private readonly ContentDigest $digest;

    private string $waiting = '';

    public function __construct(private readonly string $path)
    {
        $this->file = @fopen($path, 'wb') ?: throw UnableToWrite::open($path);
        $this->digest = new ContentDigest;
    }

    public function add(string $line): void
    {
        $this->waiting .= $line;
        if (strlen($this->waiting) >= self::BUFFER) {
            $this->flush();
        }
    }

    /** Ends it; the digest, 32 bytes. */
    public function finish(): string
    {
        $this->flush();
        fclose($this->file);

        return $this->digest->finish();
    }

    private function flush(): void
    {
        if (fwrite($this->file, $this->waiting) !== strlen($this->waiting)) {
            throw UnableToWrite::full($this->path);
        }
        $this->digest->data($this->waiting);
        $this->waiting = '';
    }
}
