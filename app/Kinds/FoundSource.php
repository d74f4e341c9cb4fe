<?php

declare(strict_types=1);

namespace App\Kinds;

/** An original that is there, and that nothing protects. */
final readonly class FoundSource
{
    /**
     * @param  string  $place  where it is, in the kind's own words
     * @param  array<string, mixed>  $workload  the columns of the workload that it becomes, beside name and kind
     */
    public function __construct(public string $name, public string $group, public string $place, public array $workload)
    {
    }
}
