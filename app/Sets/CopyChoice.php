<?php

declare(strict_types=1);

namespace App\Sets;

use App\Models\Store;
use Kaiseki\Core\Estimate\RestoreEstimate;

/** What it costs to read from a store, or not to. */
final readonly class CopyChoice
{
    /**
     * @param  int  $sets  of those needed that it has a copy of
     * @param  RestoreEstimate|null  $best  as is best; null, here and below, where it cannot be done so
     * @param  RestoreEstimate|null  $only  wherever it has a copy
     * @param  RestoreEstimate|null  $without  not from here
     * @param  string  $choice  what is settled for it: best, use or avoid
     */
    public function __construct(
        public Store $store,
        public int $sets,
        public ?RestoreEstimate $best,
        public ?RestoreEstimate $only,
        public ?RestoreEstimate $without,
        public string $choice,
    ) {
    }

    /** @return array<string, array{RestoreEstimate|null, string}> a choice => what comes of it, and the choice in words */
    public function ways(): array
    {
        return [
            'best' => [$this->best, 'as is best'],
            'use' => [$this->only, 'wherever it has a copy'],
            'avoid' => [$this->without, 'not from here'],
        ];
    }
}
