<?php

declare(strict_types=1);

namespace Kaiseki\Core\Library;

use Kaiseki\Core\Instant;

/** One version of a document, as its library wrote it down. */
final readonly class DocumentVersion
{
    public function __construct(public int $number, public string $author, public ?Instant $savedAt, public string $remark)
    {
    }
}
