<?php

declare(strict_types=1);

namespace App\View;

use App\Models\Check;
use App\Sets\CopyOutline;

/** A copy of a set, and what was found when it was read back last. */
final readonly class CopyLine
{
    /**
     * @param  bool  $canMend  whether it is wrong, and this person may have it made right
     */
    public function __construct(public CopyOutline $copy, public ?Check $check, public bool $canMend)
    {
    }

    public function isFine(): bool
    {
        return $this->copy->state->isReadable() && ($this->check === null || $this->check->isRight());
    }

    /** What was found, or what is known; nothing if it was never read back. */
    public function found(): string
    {
        return $this->check->because ?? $this->copy->because ?? ($this->check === null ? '' : 'every byte as it was written');
    }
}
