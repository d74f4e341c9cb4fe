<?php

declare(strict_types=1);

namespace App\Sets;

/** How far the sets are that are being brought to a nearer store. */
final readonly class BringingProgress
{
    /**
     * @param  string|null  $failed  why it was given up
     */
    public function __construct(public int $done, public int $all, public string $store, public ?string $failed)
    {
    }

    public function isAtWork(): bool
    {
        return $this->failed === null && $this->done < $this->all;
    }

    public function isThere(): bool
    {
        return $this->failed === null && $this->done >= $this->all;
    }
}
