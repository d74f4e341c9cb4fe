<?php

declare(strict_types=1);

namespace Kaiseki\Core\Archive;

/** Takes the content of one member. */
interface ContentSink
{
    public function data(string $bytes): void;

    /** So many zero bytes that are not stored in the archive. */
    public function hole(int $length): void;
}
