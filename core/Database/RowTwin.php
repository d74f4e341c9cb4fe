<?php

declare(strict_types=1);

namespace Kaiseki\Core\Database;

/** A table that takes the row images of another, on a throw-away server. */
final readonly class RowTwin
{
    /**
     * @param  string  $schema  of the table that the images are of
     * @param  string  $twin  its own name
     * @param  int  $rows  images
     */
    public function __construct(public string $schema, public string $table, public string $twin, public int $rows)
    {
    }
}
